import { barFault, emptyBars, mergeBars, sliceBars, type ChangedBar, type LineProblem } from "#core/bars";
import { packForStore, type StoredBars } from "./bar-store";
import type { StreamWork } from "./jobs/protocol";

/** One source that is to be brought up to date. */
export interface UpdateItem {
  sourceId: number;
  symbol: string;
  source: string;
  timeframe: string;
}

export interface UpdateInput {
  url: string;
  items: UpdateItem[];
}

/** What came of one source. */
export interface UpdateOutput {
  item: UpdateItem;
  /** why it could not be updated, or null */
  failed: string | null;
  /** raw bars that the update began with */
  base: string;
  added: number;
  /** bars that the service tells differently by now; they wait for the trader */
  changed: number;
  changes: ChangedBar[];
  rejected: number;
  problems: LineProblem[];
  newOnly: string | null;
  all: string | null;
  stored: StoredBars[];
}

/** Bars before the last one that are asked for again, to notice what the service has revised. */
const OVERLAP = 10;
const TRIES = 5;
const ANSWER_MS = 15_000;

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

/** One page of bars, asked for again with growing pauses while the service is slow, absent or in error. */
async function page(url: string, firstPause: number): Promise<{ more: boolean; bars: number[][] }> {
  let last = "";
  for (let attempt = 0; attempt < TRIES; attempt++) {
    if (attempt > 0) await pause(firstPause * 2 ** (attempt - 1));
    try {
      const response = await fetch(url, { signal: AbortSignal.timeout(ANSWER_MS) });
      if (response.status === 404) throw new Gone(((await response.json()) as { problem?: string }).problem ?? "it has no such series");
      if (!response.ok) throw new Error(`it answered ${response.status}`);
      const body = (await response.json()) as { more: boolean; bars: number[][] };
      if (!Array.isArray(body.bars)) throw new Error("its answer holds no bars");
      return body;
    } catch (error) {
      if (error instanceof Gone) throw error;
      last = error instanceof Error ? (error.cause instanceof Error ? error.cause.message : error.message) : String(error);
    }
  }
  throw new Error(`the data service did not answer after ${TRIES} tries: ${last}`);
}

class Gone extends Error {}

/** Asks the data service for what is new, one source a unit. */
export const updateStream: StreamWork<UpdateInput, UpdateOutput> = {
  kind: "update",
  async stream(input, tools, unit) {
    const item = input.items[unit];
    const base = await tools.rawHash(item.sourceId);
    const output: UpdateOutput = {
      item,
      failed: null,
      base,
      added: 0,
      changed: 0,
      changes: [],
      rejected: 0,
      problems: [],
      newOnly: null,
      all: null,
      stored: [],
    };
    try {
      const before = await tools.openedBars(base);
      let from = before.time[Math.max(0, before.length - OVERLAP)];
      const rows: number[][] = [];
      const firstPause = Number(process.env.CANYON_RETRY_MS ?? 500);
      for (;;) {
        const query = new URLSearchParams({ source: item.source, symbol: item.symbol, timeframe: item.timeframe, from: String(from) });
        const { bars, more } = await page(`${input.url}/bars?${query.toString()}`, firstPause);
        rows.push(...bars);
        const last = bars[bars.length - 1]?.[0];
        if (!more || last === undefined || last < from) break;
        from = last + 1;
      }
      const fresh = emptyBars(rows.length);
      let count = 0;
      rows.forEach((row, i) => {
        const [time, open, high, low, close, volume] = row;
        const repeated = count > 0 && time <= fresh.time[count - 1];
        const fault = !Number.isFinite(time)
          ? "the time is not a number"
          : repeated
            ? `the time ${new Date(time).toISOString()} comes twice or out of order`
            : barFault(open, high, low, close, volume);
        if (fault !== null) {
          output.rejected++;
          if (output.problems.length < 200) output.problems.push({ line: i + 1, message: fault });
          return;
        }
        fresh.time[count] = time;
        fresh.open[count] = open;
        fresh.high[count] = high;
        fresh.low[count] = low;
        fresh.close[count] = close;
        fresh.volume[count] = volume;
        count++;
      });
      const merge = mergeBars(before, sliceBars(fresh, 0, count), false);
      Object.assign(output, { added: merge.added, changed: merge.changed, changes: merge.changes });
      const keep = async (bars: typeof before) => {
        const packed = await packForStore(bars, tools.knownParts);
        output.stored.push(packed);
        return packed.set.hash;
      };
      output.newOnly = merge.added === 0 ? base : await keep(merge.bars);
      output.all = merge.changed === 0 ? output.newOnly : await keep(mergeBars(before, sliceBars(fresh, 0, count)).bars);
    } catch (error) {
      output.failed = error instanceof Error ? error.message : String(error);
    }
    return output;
  },
};
