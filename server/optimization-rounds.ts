import { laySpace, mostTrials, roundsOf, type Known, type OptimizationInput } from "#core/optimize";
import type { Rounds } from "./jobs/protocol";
import type { TrialStore } from "./trial-store";

/**
 * The rounds of an optimization by any method but the whole grid. The method is gone through from its start, with the
 * figures of the trials that are written, so that it goes on after a crash as if nothing had been.
 */
export function optimizationRounds(store: TrialStore, input: OptimizationInput & { optimizationId: number }): Rounds | null {
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
        // a draw is one round, whatever its trials gave
        if (method.kind === "random" || method.kind === "sobol") return null;
        for (const figures of await store.figures(optimizationId, from, from + round.length)) known.metrics.push(figures);
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
