import type { Bars } from "#core/bars";
import type { Settings, Strategy } from "#core/documents";
import { prepareRun, type PreparedRun } from "#core/engine";
import { runMarkets, soleMember } from "#core/runs";
import { layGrid, type Grid, type Search } from "./plan";
import { computeCombinations, computeTrials, fitOf, type Trial } from "./trials";

/** Everything that a chunk of an optimization needs, as plain values; bars are named by hash in the settings. */
export interface OptimizationInput {
  strategy: Strategy;
  settings: Settings;
  search: Search;
}

export interface TrialRow {
  number: number;
  values: Record<string, number>;
  fit: number | null;
  metrics: Float64Array;
}

export interface PreparedOptimization {
  grid: Grid;
  run: PreparedRun;
}

/** Lays the grid and the run of an optimization. The input was checked before; what is wrong now is a bug and throws. */
export function prepareOptimization(input: OptimizationInput, bars: readonly Bars[]): PreparedOptimization {
  const grid = layGrid(input.strategy, input.search);
  if (grid.value === null) throw new Error(grid.problems.map((p) => p.message).join("; "));
  const markets = runMarkets(input.settings, bars, grid.value.compiled.timeframe);
  const run = prepareRun([soleMember(grid.value.compiled, input.settings)], input.settings, markets);
  if (run.value === null) throw new Error(run.problems.map((p) => p.message).join("; "));
  return { grid: grid.value, run: run.value };
}

/**
 * Trials `from` (included) to `to` (excluded), with their fit; with several objectives a fit rests on all trials and is
 * null here. `combinations`: which they are, where the method does not take every one in grid order.
 */
export function computeChunk(
  prepared: PreparedOptimization,
  search: Search,
  from: number,
  to: number,
  combinations?: readonly number[],
): TrialRow[] {
  const { grid, run } = prepared;
  const { figures, objective, limits } = search;
  const trials =
    combinations === undefined
      ? computeTrials(grid, run, from, to, figures)
      : computeCombinations(grid, run, combinations, from, { figures });
  return trials.map(({ number, values, metrics }: Trial) => ({
    number,
    values,
    metrics,
    fit: objective.length === 1 ? fitOf(metrics, objective[0], limits) : null,
  }));
}
