import { asc, eq } from "drizzle-orm";
import type { Bars } from "#core/bars";
import type { Metrics } from "#core/documents";
import { periodEnds, periodsPerYear } from "#core/metrics";
import { bestOf, deflatedOf, laySpace, prepareOptimization } from "#core/optimize";
import { histogramOf, type Bin } from "#core/reading";
import type { Database } from "./db/open";
import { trials } from "./db/schema";
import type { ChunkExecutor } from "./jobs/protocol";
import { combinationOf } from "./optimization-judgement";
import { figuresOfRecord } from "./optimization-rounds";
import type { OptimizationView } from "./optimizations";
import type { OverfittingInput, OverfittingOutput } from "./overfitting-stream";
import type { VersionView } from "./strategies";

/** How much of a finished optimization is luck, as far as its own trials tell. */
export interface OptimizationLuck {
  pbo: number | null;
  /** how the best in sample stood out of sample: λ below 0 is the worse half */
  histogram: Bin[];
  /** deflated Sharpe ratio of the peak, by this optimization's trials and by the ledger's count; null without one */
  deflated: { trials: number; ledger: number; own: number | null; line: number | null };
  /** trials that most often were best in sample, with the share of choices */
  leaders: { number: number; share: number }[];
  trials: number;
}

const LEADERS = 5;
/** Computes every trial once more for its returns, beside the server's own thread, and judges them. `ledger`: trials spent on the line. */
export async function optimizationLuck(
  db: Database,
  executor: ChunkExecutor,
  view: OptimizationView,
  version: VersionView,
  bars: readonly Bars[],
  ledger: number,
): Promise<OptimizationLuck> {
  const { axes } = laySpace(version.strategy, view.search).value!;
  const rows = await db.select().from(trials).where(eq(trials.optimizationId, view.id)).orderBy(asc(trials.number));
  const stored = rows.map((row) => ({
    values: JSON.parse(row.values) as Record<string, number>,
    fit: row.fit,
    metrics: JSON.parse(row.metrics) as Metrics,
  }));
  const input: OverfittingInput = {
    strategy: version.strategy,
    settings: view.settings,
    search: view.search,
    combinations: stored.map(({ values }) => combinationOf(axes, values)),
  };
  const data = view.settings.markets.map((market) => market.bars);
  const chunk = { jobId: 0, kind: "overfitting", input, data, chunk: 0, from: 0, to: stored.length };
  const found = (await executor.run(chunk)) as OverfittingOutput;
  const counts = new Map<number, number>();
  for (const number of found.best) counts.set(number, (counts.get(number) ?? 0) + 1);
  const best = bestOf(stored.map(({ fit }) => fit));
  const { run } = prepareOptimization(input, bars);
  const figures = stored.map(({ metrics }) => figuresOfRecord(metrics));
  const deflated = (count: number) =>
    best === null ? null : deflatedOf(figures[best], figures, periodEnds(run).length, periodsPerYear(run), count);
  return {
    pbo: found.pbo,
    histogram: histogramOf(found.lambdas),
    deflated: { trials: stored.length, ledger, own: deflated(stored.length), line: deflated(Math.max(ledger, stored.length)) },
    leaders: [...counts]
      .map(([number, count]) => ({ number, share: count / found.best.length }))
      .sort((a, b) => b.share - a.share || a.number - b.number)
      .slice(0, LEADERS),
    trials: stored.length,
  };
}
