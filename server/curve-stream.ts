import { compileStrategy } from "#core/engine";
import { equityAt, prepareRuns, type OptimizationInput } from "#core/optimize";
import { thin, type Point } from "#core/reading";
import type { StreamWork } from "./jobs/protocol";

export interface CurveInput extends OptimizationInput {
  /** values of each curve; what they leave out is the version's */
  values: Record<string, number>[];
}

/** Buckets of a small curve. */
const BUCKETS = 120;

/** The equity of trials, thinned for drawing. */
export const curveStream: StreamWork<CurveInput, Point[][]> = {
  kind: "trial-curves",
  async stream(input, { bars }) {
    const own = await Promise.all(input.settings.markets.map((market) => bars(market.bars)));
    const compiled = compileStrategy(input.strategy).value!;
    const runs = prepareRuns(compiled, input, own);
    return input.values.map((values) => {
      const { times, equity } = equityAt(compiled, runs, values);
      return thin(times, equity, BUCKETS);
    });
  },
};
