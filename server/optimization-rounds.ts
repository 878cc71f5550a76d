import { and, asc, eq, gte, lt, sql } from "drizzle-orm";
import type { BatchItem } from "drizzle-orm/batch";
import type { Metrics } from "#core/documents";
import { METRIC_KEYS } from "#core/metrics";
import { fitsOf, laySpace, mostTrials, roundsOf, type Known, type OptimizationInput } from "#core/optimize";
import type { Database } from "./db/open";
import { trials } from "./db/schema";
import type { Rounds } from "./jobs/protocol";

/** Figures as a trial keeps them, in the order of METRIC_KEYS; NaN for null. */
export const figuresOfRecord = (metrics: Metrics): Float64Array => Float64Array.from(METRIC_KEYS, (key) => metrics[key] ?? NaN);

/**
 * The rounds of an optimization by any method but the whole grid. The method is gone through from its start, with the
 * figures of the trials that are written, so that it goes on after a crash as if nothing had been.
 */
export function optimizationRounds(db: Database, input: OptimizationInput & { optimizationId: number }): Rounds | null {
  const { strategy, search, optimizationId } = input;
  const { method = { kind: "grid" }, objective, limits, mark = null } = search;
  if (method.kind === "grid") return null;
  const space = laySpace(strategy, search).value;
  if (space === null) throw new Error("the optimization's space can't be laid any more");
  const known: Known & { combinations: number[]; metrics: Float64Array[] } = { combinations: [], metrics: [] };
  const rounds = roundsOf(method, { space, objective, limits, mark });
  let round: number[] = [];
  return {
    async next() {
      const from = known.combinations.length;
      if (round.length > 0) {
        const rows = await db
          .select({ metrics: trials.metrics })
          .from(trials)
          .where(and(eq(trials.optimizationId, optimizationId), gte(trials.number, from), lt(trials.number, from + round.length)))
          .orderBy(asc(trials.number));
        if (rows.length !== round.length) throw new Error(`of ${round.length} trials of a round ${rows.length} are written`);
        for (const row of rows) known.metrics.push(figuresOfRecord(JSON.parse(row.metrics) as Metrics));
        known.combinations.push(...round);
      }
      do {
        const step = rounds.next(known);
        if (step.done) return null;
        round = step.value;
      } while (round.length === 0);
      const first = known.combinations.length;
      const to = first + round.length;
      return { from: first, to, total: Math.max(to, mostTrials(space, method)) };
    },
    units: (from, to) => round.slice(from - known.combinations.length, to - known.combinations.length),
  };
}

/** Fits that one statement writes. */
const FITS = 500;

/** With several objectives a fit is a rank among all trials, so that fits are written when all are there. */
export async function finalFits(
  db: Database,
  { search, optimizationId }: OptimizationInput & { optimizationId: number },
): Promise<BatchItem<"sqlite">[]> {
  if (search.objective.length === 1) return [];
  const rows = await db
    .select({ number: trials.number, metrics: trials.metrics })
    .from(trials)
    .where(eq(trials.optimizationId, optimizationId))
    .orderBy(asc(trials.number));
  const fits = fitsOf(
    rows.map((row) => figuresOfRecord(JSON.parse(row.metrics) as Metrics)),
    search.objective,
    search.limits,
  );
  const statements: BatchItem<"sqlite">[] = [];
  for (let from = 0; from < rows.length; from += FITS) {
    const part = JSON.stringify(fits.slice(from, from + FITS));
    statements.push(
      db
        .update(trials)
        .set({ fit: sql`json_extract(${part}, '$[' || CAST(${trials.number} - ${from} AS INTEGER) || ']')` })
        .where(and(eq(trials.optimizationId, optimizationId), gte(trials.number, from), lt(trials.number, from + FITS))),
    );
  }
  return statements;
}
