import type { DocumentProblem } from "#core/documents";
import { combinationAt, computeSearch, laySpace, mostTrials, prepareOptimization, trialsIn, type OptimizationInput } from "#core/optimize";
import type { StreamWork } from "./jobs/protocol";

/** What is asked: whether a search can run, and, where `measured` trials are to be computed for it, how long one takes. */
export interface CheckInput extends OptimizationInput {
  measured: number;
}

/** Trials that the method makes at most, and seconds a trial; or what is wrong. */
export type CheckOutput = { problems: DocumentProblem[]; total: null } | { problems: []; total: number; seconds: number | null };

/** Lays and checks a search beside the server's own thread: millions of combinations take a while. */
export const checkStream: StreamWork<CheckInput, CheckOutput> = {
  kind: "optimization-check",
  async stream(input, { bars }) {
    const space = laySpace(input.strategy, input.search);
    if (space.value === null) return { problems: space.problems, total: null };
    const own = await Promise.all(input.settings.markets.map((market) => bars(market.bars)));
    let prepared;
    try {
      prepared = prepareOptimization(input, own);
    } catch (error) {
      return { problems: [{ path: "settings", message: (error as Error).message }], total: null };
    }
    const total = mostTrials(space.value, input.search.method ?? { kind: "grid" });
    const count = trialsIn(space.value);
    const measured = Math.min(count, input.measured);
    if (measured === 0) return { problems: [], total, seconds: null };
    // the first ones compute columns that later ones find; so do a thread's first ones
    const some = Array.from({ length: measured }, (_, k) => combinationAt(space.value, Math.floor((k * count) / measured)));
    const start = performance.now();
    computeSearch(prepared, input.search, some, 0);
    return { problems: [], total, seconds: (performance.now() - start) / 1000 / measured };
  },
};
