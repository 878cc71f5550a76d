import type { Bars } from "#core/bars";
import type { DocumentProblem, Metrics, Settings, Strategy } from "#core/documents";
import { prepareRun, type Compiled, type PreparedRun, type RunMarket } from "#core/engine";
import { deflatedSharpe, METRIC_INDEX, periodEnds, periodsPerYear, sampleDeviation } from "#core/metrics";
import { runMarkets, soleMember, timeframeProblems } from "#core/runs";
import { bestOf, fitsOf } from "./fits";
import { roundsOf, type Known } from "./methods/method";
import { BLOCKS, overfitting } from "./overfitting";
import { Places, fragilityOf, plateauOf, type Plateau } from "./plateau";
import type { Search } from "./plan";
import { laySpace, type Space } from "./space";
import { computeCombinations, metricsRecord, type Keep, type Trial } from "./trials";

/** A search that is ready to run: its space, and the run that every trial is one of. */
export interface PreparedSearch {
  space: Space;
  run: PreparedRun;
  search: Search;
}

export type PreparedSearchResult = { value: PreparedSearch; problems: [] } | { value: null; problems: DocumentProblem[] };

/** Lays a search over a strategy and its bars. `markets` may hand in what an earlier call made, to share its columns. */
export function prepareSearch(
  strategy: Strategy,
  settings: Settings,
  search: Search,
  bars: readonly Bars[],
  markets?: RunMarket[],
): PreparedSearchResult {
  const space = laySpace(strategy, search);
  if (space.value === null) return { value: null, problems: space.problems };
  return searchOver(space.value, settings, search, bars, markets);
}

/** The same where the space is laid already. */
export function searchOver(
  space: Space,
  settings: Settings,
  search: Search,
  bars: readonly Bars[],
  markets?: RunMarket[],
): PreparedSearchResult {
  const { compiled } = space;
  const faults = timeframeProblems(settings, compiled.timeframe);
  if (faults.length > 0) return { value: null, problems: inSettings(faults) };
  const run = prepareRun([soleMember(compiled, settings)], settings, markets ?? runMarkets(settings, bars, compiled.timeframe));
  if (run.value === null) return { value: null, problems: inSettings(run.problems) };
  return { value: { space, run: run.value, search }, problems: [] };
}

const inSettings = (problems: readonly DocumentProblem[]): DocumentProblem[] => problems.map((p) => ({ ...p, path: `settings.${p.path}` }));

/** All trials of a search in the order of their numbers, with their combinations. */
export const runSearch = ({ space, run, search }: PreparedSearch, keep: Keep = {}): { trials: Trial[]; combinations: number[] } =>
  searchTrials(space, search, (combinations, first) => computeCombinations(space, run, combinations, first, keep));

/** The same with any way to compute combinations as trials. */
export function searchTrials(
  space: Space,
  { objective, limits, mark, method = { kind: "grid" } }: Search,
  compute: (combinations: readonly number[], first: number) => Trial[],
): { trials: Trial[]; combinations: number[] } {
  const trials: Trial[] = [];
  const known: Known & { combinations: number[]; metrics: Float64Array[] } = { combinations: [], metrics: [] };
  const rounds = roundsOf(method, { space, objective, limits, mark: mark ?? null });
  for (let round = rounds.next(known); !round.done; round = rounds.next(known)) {
    for (const trial of compute(round.value, trials.length)) {
      trials.push(trial);
      known.metrics.push(trial.metrics);
    }
    known.combinations.push(...round.value);
  }
  return { trials, combinations: known.combinations };
}

/** What a finished search comes to. */
export interface Judged {
  fits: (number | null)[];
  best: number | null;
  plateau: Plateau;
  places: Places;
}

/** Fits, the best, and the plateau with its deepest trial. */
export function judge({ space, search }: PreparedSearch, metrics: readonly ArrayLike<number>[], combinations: readonly number[]): Judged {
  const fits = fitsOf(metrics, search.objective, search.limits);
  const places = new Places(space.axes, combinations);
  return { fits, best: bestOf(fits), plateau: plateauOf(places, fits, search.mark ?? null), places };
}

/** One trial of `canyon.trials/1`. */
export interface TrialRecord {
  number: number;
  values: Record<string, number | boolean>;
  metrics: Metrics;
  fit: number | null;
  depth: number | null;
  fragility: number | null;
}

export interface TrialsDocument {
  format: "canyon.trials/1";
  trials: TrialRecord[];
  best: number | null;
  recommended: number | null;
  plateau: number[];
  pbo: number | null;
  deflatedSharpe: number | null;
}

/** A whole optimization, from the search to its document. */
export function optimize(prepared: PreparedSearch): TrialsDocument {
  const { trials, combinations } = runSearch(prepared, { sums: true });
  const { fits, best, plateau, places } = judge(
    prepared,
    trials.map((trial) => trial.metrics),
    combinations,
  );
  const { run, space } = prepared;
  const ends = periodEnds(run);
  return {
    format: "canyon.trials/1",
    trials: trials.map((trial, i) => ({
      number: trial.number,
      values: writtenValues(trial.values, space.compiled),
      metrics: metricsRecord(trial.metrics),
      fit: fits[i],
      depth: plateau.depth === null ? null : plateau.depth[i],
      fragility: fragilityOf(places, fits, i),
    })),
    best,
    recommended: plateau.recommended,
    plateau: plateau.trials,
    pbo:
      overfitting(
        trials.map((trial) => trial.sums ?? null),
        Math.floor(ends.length / BLOCKS),
      )?.pbo ?? null,
    deflatedSharpe:
      best === null
        ? null
        : deflatedOf(
            trials[best].metrics,
            trials.map((trial) => trial.metrics),
            ends.length,
            periodsPerYear(run),
          ),
  };
}

/** Values as a document has them: yes/no ones as truths. */
export function writtenValues(values: Readonly<Record<string, number>>, compiled: Compiled): Record<string, number | boolean> {
  return Object.fromEntries(
    Object.entries(values).map(([name, value]) => [name, compiled.variable.get(name)?.kind === "yesNo" ? value === 1 : value]),
  );
}

/**
 * Deflated Sharpe ratio of one trial against all: their number, and the sample variance of the ratios per period of those that
 * have one. `n`: returns of a trial. Null without a ratio, or where fewer than two trials have one.
 */
export function deflatedOf(
  best: ArrayLike<number>,
  all: readonly ArrayLike<number>[],
  n: number,
  perYear: number,
  count = all.length,
): number | null {
  const at = (metrics: ArrayLike<number>, key: string) => metrics[METRIC_INDEX[key]];
  const ratios = all.map((metrics) => at(metrics, "sharpe") / Math.sqrt(perYear)).filter((ratio) => !Number.isNaN(ratio));
  const own = at(best, "sharpe") / Math.sqrt(perYear);
  if (ratios.length < 2 || Number.isNaN(own)) return null;
  return deflatedSharpe(own, n, at(best, "skew"), at(best, "kurtosis"), count, sampleDeviation(ratios) ** 2);
}
