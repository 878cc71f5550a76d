import { loadBars, storeBars } from "#server/bar-store";
import { createReadStream, createWriteStream, mkdtempSync, rmSync, statSync } from "node:fs";
import { once } from "node:events";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import Papa from "papaparse";
import pino from "pino";
import { barsCsvLines, guessCsv, MarketCalendar, parseTimeframe, resample, type Bars } from "#core/bars";
import { openForReading } from "#server/db/open";
import { toolsOf } from "#server/jobs/tools";
import { STREAMS } from "#server/jobs/work";
import { openServices, type Services } from "#server/services";
import { benchBars, MINUTES } from "./data";

const ROWS = 1_000_000;

async function services(folder: string): Promise<Services> {
  const executor = {
    width: 1,
    run: async (chunk: { kind: string; input: unknown; from: number }) =>
      STREAMS.get(chunk.kind)!.stream(
        chunk.input,
        toolsOf(openForReading(folder), folder)(() => {}),
        chunk.from,
      ),
    close: () => Promise.resolve(),
  };
  return openServices(folder, resolve(import.meta.dirname, "../../server/db/migrations"), executor, pino({ level: "silent" }));
}

/** A bare pass of the CSV library over a file: what the least that anybody could do takes. */
function barePass(path: string): Promise<number> {
  let rows = 0;
  return new Promise((done, fail) =>
    Papa.parse(createReadStream(path), {
      chunk: (results) => void (rows += results.data.length),
      complete: () => done(rows),
      error: fail,
    }),
  );
}

async function timed(work: () => Promise<unknown>): Promise<number> {
  const start = performance.now();
  await work();
  return (performance.now() - start) / 1000;
}

type Line = (name: string, unit: string, ours: number, hand: number) => void;

/** A million one-minute bars of CSV into a source, from the file to the database, beside a bare pass over the same file. */
export async function importMillion(line: Line): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), "canyon-bench-"));
  try {
    const path = join(folder, "million.csv");
    const out = createWriteStream(path);
    for (const piece of barsCsvLines(rounded(benchBars(ROWS, MINUTES.step)))) if (!out.write(piece)) await once(out, "drain");
    out.end();
    await once(out, "close");
    const own = await services(folder);
    await own.jobs.start();
    const bare: number[] = [];
    const ours: number[] = [];
    for (let round = 0; round < 3; round++) {
      bare.push(await timed(() => barePass(path)));
      ours.push(
        await timed(async () => {
          const [upload] = await own.imports.uploads.receive("million.csv", createReadStream(path), statSync(path).size);
          const { format } = await own.imports.preview(upload.id);
          const symbol = `BENCH${round}`;
          const id = await own.imports.start(upload.id, {
            market: null,
            create: { symbol, name: symbol, kind: "future", currency: "SKR", tick: 0.01, pointValue: 1, source: "file" },
            source: "file",
            format: { ...format, timeframe: guessCsv("").format.timeframe === format.timeframe ? "1m" : format.timeframe },
            leaveOut: false,
            takeChanges: false,
          });
          for (;;) {
            const view = (await own.imports.get(id))!;
            if (view.state === "taken") return;
            if (view.state !== "reading") throw new Error(view.report?.fatal ?? view.state);
            await new Promise((wake) => setTimeout(wake, 10));
          }
        }),
      );
    }
    await own.close();
    const middle = (list: number[]) => list.sort((a, b) => a - b)[list.length >> 1];
    line(
      "import-1m",
      "rows per second, handed in, read, merged, packed and stored, against a bare pass of the CSV library",
      ROWS / middle(ours),
      ROWS / middle(bare),
    );
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

const rounded = (bars: Bars): Bars => {
  for (const name of ["open", "high", "low", "close"] as const)
    for (let i = 0; i < bars.length; i++) bars[name][i] = Math.round(bars[name][i] * 100) / 100;
  return bars;
};

/** The loop that somebody would write for 20-minute bars of round-the-clock minutes. */
function handResample(bars: Bars, into: Float64Array[]): number {
  const [time, open, high, low, close, volume] = into;
  let rows = -1;
  let bucket = NaN;
  for (let i = 0; i < bars.length; i++) {
    const label = Math.floor(bars.time[i] / 1_200_000) * 1_200_000;
    if (label !== bucket) {
      bucket = label;
      rows++;
      time[rows] = label;
      open[rows] = bars.open[i];
      high[rows] = bars.high[i];
      low[rows] = bars.low[i];
      volume[rows] = 0;
    }
    if (bars.high[i] > high[rows]) high[rows] = bars.high[i];
    if (bars.low[i] < low[rows]) low[rows] = bars.low[i];
    close[rows] = bars.close[i];
    volume[rows] += bars.volume[i];
  }
  return rows + 1;
}

/** A million stored minutes into columns, and these into 20-minute bars. */
export async function readAndResample(line: Line): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), "canyon-bench-"));
  try {
    const own = await services(folder);
    const bars = rounded(benchBars(ROWS, MINUTES.step));
    const { hash, statements } = await storeBars(own.db, bars);
    const [first, ...rest] = statements;
    await own.db.batch([first, ...rest]);
    const reads: number[] = [];
    const copies: number[] = [];
    for (let round = 0; round < 7; round++) {
      reads.push(await timed(() => loadBars(own.db, hash)));
      copies.push(
        await timed(() => Promise.resolve(Object.values(bars).map((column) => (column instanceof Float64Array ? column.slice() : 0)))),
      );
    }
    const middle = (list: number[]) => list.sort((a, b) => a - b)[list.length >> 1];
    line(
      `read-1m (${Math.round(1000 * middle(reads))} ms)`,
      "rows per second from the database into columns, against copying the columns in memory",
      ROWS / middle(reads),
      ROWS / middle(copies),
    );
    const calendar = new MarketCalendar(null);
    const [minute, twenty] = [parseTimeframe("1m")!, parseTimeframe("20m")!];
    const into = Array.from({ length: 6 }, () => new Float64Array(ROWS));
    const ours: number[] = [];
    const hand: number[] = [];
    for (let round = 0; round < 9; round++) {
      ours.push(await timed(() => Promise.resolve(resample(bars, minute, twenty, calendar))));
      hand.push(await timed(() => Promise.resolve(handResample(bars, into))));
    }
    line(
      `resample-1m (${Math.round(1000 * middle(ours))} ms)`,
      "rows per second into 20-minute bars",
      ROWS / middle(ours),
      ROWS / middle(hand),
    );
    await own.close();
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
