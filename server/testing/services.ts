import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import pino from "pino";
import { readSettings, type Settings } from "#core/documents";
import { readBarsCsv } from "#core/bars";
import { BarCache } from "../bar-store";
import { openForReading, type Database } from "../db/open";
import type { Chunk, ChunkExecutor } from "../jobs/protocol";
import { toolsOf } from "../jobs/tools";
import { STREAMS, WORK } from "../jobs/work";
import { settingsMarket, type MarketView, type NewMarket } from "../markets";
import { Refused } from "../problem";
import { openServices, type Services } from "../services";

export const MIGRATIONS = fileURLToPath(new URL("../db/migrations", import.meta.url));

export const emptyFolder = (): string => mkdtempSync(join(tmpdir(), "canyon-"));

/** Runs chunks in this thread, one after the other; `before` may delay or fail one. */
export function inlineExecutor(folder: string, before: (chunk: Chunk) => Promise<void> | void = () => {}): ChunkExecutor {
  let held: { db: Database; bars: BarCache } | null = null;
  return {
    width: 1,
    async run(chunk, progress = () => {}) {
      await before(chunk);
      held ??= ((db) => ({ db, bars: new BarCache(db) }))(openForReading(folder));
      const { db, bars } = held;
      const stream = STREAMS.get(chunk.kind);
      if (stream !== undefined) return stream.stream(chunk.input, toolsOf(db, folder, bars)(progress), chunk.from);
      const work = WORK.get(chunk.kind)!;
      const own = work.opens?.(chunk.input) ? await Promise.all(chunk.data.map((hash) => bars.opened(hash))) : await bars.all(chunk.data);
      return work.compute(work.prepare(chunk.input, own), chunk.input, chunk.from, chunk.to, chunk.units);
    },
    close: () => Promise.resolve(),
  };
}

/** A market with the bars of a CSV text. */
export const addMarket = (services: Services, given: NewMarket, text: string): Promise<MarketView> =>
  services.markets.add(given, readBarsCsv(text).bars);

/** Waits until a job is over, and gives how it ended. */
export async function ended(services: Services, id: number): Promise<string> {
  for (;;) {
    const [job] = await services.jobs.progress([id]);
    if (!["queued", "running"].includes(job.state)) return job.state;
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}

export const openTest = (folder: string, executor: ChunkExecutor = inlineExecutor(folder)): Promise<Services> =>
  openServices(folder, MIGRATIONS, executor, pino({ level: "silent" }));

/** Daily bars as CSV text: a swinging price, `count` days. */
export function csvText(count: number, start = "2015-01-01"): string {
  const lines = ["date,open,high,low,close,volume"];
  let price = 100;
  for (let i = 0; i < count; i++) {
    const open = price;
    price = Number((100 + 20 * Math.sin(i / 15) + 5 * Math.sin(i / 3)).toFixed(2));
    const date = new Date(Date.parse(start) + i * 86_400_000).toISOString().slice(0, 10);
    lines.push(`${date},${open},${Math.max(open, price) + 0.5},${Math.min(open, price) - 0.5},${price},1000`);
  }
  return lines.join("\n");
}

export const newMarket = (symbol: string) => ({
  symbol,
  name: `${symbol} by hand`,
  kind: "future",
  currency: "SKR",
  tick: 0.01,
  pointValue: 1,
  source: "a file",
});

export const SWING = {
  format: "canyon.strategy/1",
  name: "Swing",
  timeframe: "1d",
  parameters: [
    { name: "fast", kind: "whole", value: 3, min: 2, max: 20, step: 1 },
    { name: "slow", kind: "whole", value: 10, min: 5, max: 40, step: 1 },
  ],
  long: { enter: { when: "sma(close, fast) > sma(close, slow)" }, exit: { when: "sma(close, fast) < sma(close, slow)" } },
  sizing: { mode: "equityPercent", value: 50 },
};

export const runSettings = (market: MarketView, more: object = {}): Settings =>
  readSettings({
    format: "canyon.settings/1",
    markets: [settingsMarket(market)],
    capital: 100_000,
    currency: "SKR",
    benchmark: market.symbol,
    ...more,
  }).value!;

/** The refusal that a promise ends with; throws where it is none. */
export async function refusal(promise: Promise<unknown>): Promise<Refused> {
  const error = await promise.then(
    () => new Error("this was not refused"),
    (e: unknown) => e,
  );
  if (!(error instanceof Refused)) throw error;
  return error;
}
