import type { Metrics } from "#core/documents";
import { Scratch, simulate, type PreparedRun } from "#core/engine";
import { METRIC_KEYS, periodEnds, periodReturns, wholeFigures, type FigureSet } from "#core/metrics";
import { blockSums, type BlockSums } from "./overfitting";
import type { Grid } from "./plan";
import { valuesOf } from "./values";

/** One evaluated combination. `metrics` are those of all trades, in the order of METRIC_KEYS; NaN stands for null. */
export interface Trial {
  number: number;
  values: Record<string, number>;
  metrics: Float64Array;
  /** where they were asked for; null without daily returns or with too few */
  sums?: BlockSums | null;
}

/** Memory that the trials of one thread share. */
const scratch = new Scratch();

/** The combinations of a grid's trials `from` (included) to `to` (excluded). */
export const gridPart = ({ order }: Pick<Grid, "order">, from: number, to: number): number[] =>
  Array.from({ length: to - from }, (_, i) => (order === null ? from + i : order[from + i]));

/** Computes trials `from` (included) to `to` (excluded) of a grid. Pure: chunks may run anywhere, in any order. */
export function computeTrials(grid: Grid, run: PreparedRun, from: number, to: number, figures: FigureSet = "all"): Trial[] {
  return computeCombinations(grid, run, gridPart(grid, from, to), from, { figures });
}

/** Which figures of a trial are kept, and whether the sums of its returns that the probability of overfitting rests on are. */
export interface Keep {
  figures?: FigureSet;
  sums?: boolean;
  /** trades with the largest net that the figures leave out */
  withoutBest?: number;
}

/** Computes combinations as trials, numbered from `first` on. Pure. */
export function computeCombinations(
  { axes, compiled }: Pick<Grid, "axes" | "compiled">,
  run: PreparedRun,
  combinations: readonly number[],
  first: number,
  { figures = "all", sums = false, withoutBest = 0 }: Keep = {},
): Trial[] {
  const equity = (figures === "all" && withoutBest === 0) || sums;
  const trials: Trial[] = [];
  for (const { store } of run.markets) store.use(scratch.columns);
  combinations.forEach((combination, i) => {
    const values = valuesOf(axes, combination);
    const simulation = simulate(run, { values: [{ ...compiled.values, ...values }], scratch, equity });
    const trial: Trial = { number: first + i, values, metrics: wholeFigures(simulation, figures, withoutBest) };
    if (sums) {
      const returns = periodReturns(simulation.equity, periodEnds(run), run.account.capital);
      trial.sums = returns === null ? null : blockSums(returns);
    }
    trials.push(trial);
    for (const { store } of run.markets) store.tidy();
  });
  return trials;
}

/** A trial's figures as a record, null where there is no value. */
export const metricsRecord = (metrics: ArrayLike<number>): Metrics =>
  Object.fromEntries(METRIC_KEYS.map((key, i) => [key, Number.isNaN(metrics[i]) ? null : metrics[i]]));
