import { compileStrategy } from "#core/engine";
import type { Metrics, Settings, Strategy } from "#core/documents";
import { figuresAt, metricsRecord, prepareRuns, type Search } from "#core/optimize";
import { timeframeProblems } from "#core/runs";
import type { StreamWork } from "./jobs/protocol";

/** Some values of a strategy, to be computed under several run settings. */
export interface FinerInput {
  strategy: Strategy;
  search: Search;
  settings: Settings[];
  /** what a trial leaves out is the version's own */
  values: Record<string, number>[];
}

/** For each of the settings the figures of each trial, or why they can't be had. */
export type FinerOutput = ({ metrics: Metrics[]; why: null } | { metrics: null; why: string })[];

/** Tests chosen trials again under other assumptions: finer bars, other fills, other costs. */
export const finerStream: StreamWork<FinerInput, FinerOutput> = {
  kind: "finer",
  async stream({ strategy, search, settings, values }, { bars }) {
    const compiled = compileStrategy(strategy).value!;
    const out: FinerOutput = [];
    for (const one of settings) {
      const [fault] = timeframeProblems(one, compiled.timeframe);
      if (fault !== undefined) {
        out.push({ metrics: null, why: fault.message });
        continue;
      }
      const own = await Promise.all(one.markets.map((market) => bars(market.bars)));
      try {
        const runs = prepareRuns(compiled, { settings: one, search }, own);
        out.push({
          metrics: values.map((each) => metricsRecord(figuresAt(compiled, runs, { ...search, figures: "all" }, each))),
          why: null,
        });
      } catch (error) {
        // dates of the settings that the finer bars do not reach are said, and the other settings are computed all the same
        out.push({ metrics: null, why: (error as Error).message });
      }
    }
    return out;
  },
};
