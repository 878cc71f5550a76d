import type { Metrics } from "#core/documents";
import { Scratch, simulate, type PreparedRun } from "#core/engine";
import { METRIC_INDEX, METRIC_KEYS, wholeFigures, type FigureSet } from "#core/metrics";
import type { Grid, Limit, Objective } from "./plan";
import { valuesOf } from "./values";

/** One evaluated combination. `metrics` are those of all trades, in the order of METRIC_KEYS; NaN stands for null. */
export interface Trial {
  number: number;
  values: Record<string, number>;
  metrics: Float64Array;
}

/** Memory that the trials of one thread share. */
const scratch = new Scratch();

/** Computes trials `from` (included) to `to` (excluded) of a grid. Pure: chunks may run anywhere, in any order. */
export function computeTrials(grid: Grid, run: PreparedRun, from: number, to: number, figures: FigureSet = "all"): Trial[] {
  const equity = figures === "all";
  const trials: Trial[] = [];
  for (const { store } of run.markets) store.use(scratch.columns);
  for (let number = from; number < to; number++) {
    const values = valuesOf(grid.axes, grid.order === null ? number : grid.order[number]);
    const simulation = simulate(run, { values: [{ ...grid.compiled.values, ...values }], scratch, equity });
    trials.push({ number, values, metrics: wholeFigures(simulation, figures) });
    for (const { store } of run.markets) store.tidy();
  }
  return trials;
}

const read = (metrics: ArrayLike<number>, key: string): number => metrics[METRIC_INDEX[key]];

/** Whether a trial breaks a limit; a figure without a value breaks every limit on it. */
export const breaksLimit = (metrics: ArrayLike<number>, limits: readonly Limit[]): boolean =>
  limits.some(({ metric, least, most }) => {
    const x = read(metrics, metric);
    return Number.isNaN(x) || (least !== undefined && x < least) || (most !== undefined && x > most);
  });

/** Fit of a trial under one objective: the metric, times −1 where less is wanted; null outside the limits or without a value. */
export function fitOf(metrics: ArrayLike<number>, objective: Objective, limits: readonly Limit[]): number | null {
  const x = read(metrics, objective.metric);
  if (Number.isNaN(x) || breaksLimit(metrics, limits)) return null;
  return objective.want === "less" ? -x : x;
}

/** A trial's figures as a record, null where there is no value. */
export const metricsRecord = (metrics: ArrayLike<number>): Metrics =>
  Object.fromEntries(METRIC_KEYS.map((key, i) => [key, Number.isNaN(metrics[i]) ? null : metrics[i]]));
