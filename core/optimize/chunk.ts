import type { Bars } from "#core/bars";
import type { Settings, Strategy } from "#core/documents";
import { prepareRun, type Compiled, type PreparedRun } from "#core/engine";
import { runMarkets, soleMember } from "#core/runs";
import { layGrid, type Grid, type Search } from "./plan";
import { poolFigures } from "./pooling";
import { computeCombinations, type Keep, type Trial } from "./trials";

/** Everything that a chunk of an optimization needs, as plain values; bars are named by hash in the settings. */
export interface OptimizationInput {
  strategy: Strategy;
  settings: Settings;
  search: Search;
}

export interface PreparedOptimization {
  grid: Grid;
  /** the run of every trial; where markets are taken each by itself, one a market */
  runs: readonly PreparedRun[];
}

/** Settings of each account that a search trades: one for all markets, or one a market, with the places of their markets. */
function accountsOf({ settings, search }: Pick<OptimizationInput, "settings" | "search">): { settings: Settings; places: number[] }[] {
  if ((search.pooling ?? "together") === "together") return [{ settings, places: settings.markets.map((_, i) => i) }];
  return settings.markets.map((market, i) => ({
    settings: { ...settings, markets: [market], marketLimit: null, benchmark: settings.benchmark === null ? null : market.symbol },
    places: [i],
  }));
}

/** The runs of a search, one an account. The input was checked before; what is wrong now is a bug and throws. */
export function prepareRuns(
  compiled: Compiled,
  input: Pick<OptimizationInput, "settings" | "search">,
  bars: readonly Bars[],
): PreparedRun[] {
  return accountsOf(input).map(({ settings, places }) => {
    const own = places.map((i) => bars[i]);
    const run = prepareRun([soleMember(compiled, settings)], settings, runMarkets(settings, own, compiled.timeframe));
    if (run.value === null) throw new Error(run.problems.map((p) => p.message).join("; "));
    return run.value;
  });
}

/** Lays the grid and the runs of an optimization. */
export function prepareOptimization(input: OptimizationInput, bars: readonly Bars[]): PreparedOptimization {
  const grid = layGrid(input.strategy, input.search);
  if (grid.value === null) throw new Error(grid.problems.map((p) => p.message).join("; "));
  return { grid: grid.value, runs: prepareRuns(grid.value.compiled, input, bars) };
}

/** Combinations as trials of a search, numbered from `first` on; where markets are taken each by itself, with what is made of theirs. */
export function computeSearch(
  { grid, runs }: { grid: Pick<Grid, "axes" | "compiled">; runs: readonly PreparedRun[] },
  { figures, pooling = "together", withoutBest }: Search,
  combinations: readonly number[],
  first: number,
  keep: Keep = {},
): Trial[] {
  const [trials, ...others] = runs.map((run) => computeCombinations(grid, run, combinations, first, { figures, withoutBest, ...keep }));
  if (pooling === "together") return trials;
  return trials.map((trial, i) => ({
    ...trial,
    metrics: poolFigures([trial.metrics, ...others.map((other) => other[i].metrics)], pooling),
  }));
}
