import { formatDate, type Bars } from "#core/bars";
import type { DocumentProblem, Metrics, Settings, Strategy } from "#core/documents";
import { Scratch, simulate, type EntryRework, type PreparedRun, type Simulation } from "#core/engine";
import { wholeFigures, wholeMetrics } from "#core/metrics";
import { prepareBacktest } from "#core/runs";
import type { ProbeContext, ProbePart, Ready } from "./kind";

/** What is wrong with a run, with the name of the part it is for. */
export const named = (name: string, problems: readonly DocumentProblem[]): DocumentProblem[] =>
  problems.map(({ path, message }) => ({ path, message: `${name}: ${message}` }));

/** A run made ready, its problems under a part's name. */
export function readyRun(name: string, strategy: Strategy, settings: Settings, bars: readonly Bars[]): Ready<PreparedRun> {
  const { run, problems } = prepareBacktest(strategy, settings, bars);
  if (run === null) return { value: null, problems: named(name, problems) };
  return { value: run, problems: [] };
}

/** The version's own run. */
export const ownRun = ({ strategy, settings, bars }: ProbeContext): Ready<PreparedRun> => readyRun("the version", strategy, settings, bars);

/** First and last session date of a run. */
export function spanOf({ clock }: PreparedRun): { from: string; to: string } {
  const { dates } = clock;
  return { from: formatDate(dates[0]), to: formatDate(dates[dates.length - 1]) };
}

/** A run with all its figures, as a part of a probe. */
export function partOf(
  name: string,
  run: PreparedRun,
  values?: Readonly<Record<string, number>>,
  rework?: EntryRework,
): ProbePart & { equity: DatedCurve } {
  const simulation = simulate(run, {
    values: values === undefined ? undefined : [{ ...run.members[0].compiled.values, ...values }],
    rework,
  });
  return { name, ...spanOf(run), metrics: wholeMetrics(simulation), equity: datedEquity(simulation) };
}

/** Equity at the end of session dates (days since 1970). */
export interface DatedCurve {
  dates: number[];
  equity: number[];
}

/** The equity at the last close of each session date. */
export function datedEquity({ run, equity }: Pick<Simulation, "run" | "equity">): DatedCurve {
  const { dates } = run.clock;
  const out: DatedCurve = { dates: [], equity: [] };
  for (let t = 0; t < dates.length; t++)
    if (t + 1 === dates.length || dates[t + 1] !== dates[t]) {
      out.dates.push(dates[t]);
      out.equity.push(equity[t]);
    }
  return out;
}

/** Curves on the union of their dates, each null before it begins and at its last value where it has no date. */
export function together(curves: readonly DatedCurve[]): { dates: number[]; values: (number | null)[][] } {
  const dates = [...new Set(curves.flatMap((curve) => curve.dates))].sort((a, b) => a - b);
  return {
    dates,
    values: curves.map(({ dates: own, equity }) => {
      let k = -1;
      return dates.map((date) => {
        while (k + 1 < own.length && own[k + 1] <= date) k++;
        return k < 0 ? null : equity[k];
      });
    }),
  };
}

/** Memory that the runs of one thread share. */
const scratch = new Scratch();

/** Figures of a run under other values or with other entries, in the order of METRIC_KEYS; much quicker than a run of its own. */
export function figuresOf(run: PreparedRun, values: Readonly<Record<string, number>> | null, rework?: EntryRework): Float64Array {
  for (const { store } of run.markets) store.use(scratch.columns);
  const own = run.members[0].compiled.values;
  const simulation = simulate(run, { values: values === null ? undefined : [{ ...own, ...values }], rework, scratch });
  const figures = wholeFigures(simulation);
  for (const { store } of run.markets) store.tidy();
  return figures;
}

/** The figures of a run as stored: null where there is no value. */
export type Figures = (number | null)[];
export const stored = (figures: Float64Array): Figures => Array.from(figures, (x) => (Number.isNaN(x) ? null : x));

/** A profit factor as a criterion: one without losers but with winners holds whatever is asked. */
export const profitFactorOf = (metrics: Metrics) =>
  metrics.profitFactor === null && (metrics.winners ?? 0) > 0 ? { held: true, note: "no losers" } : metrics.profitFactor;

/** Whether a run's profit factor reaches a mark. */
export const reachesFactor = (metrics: Metrics, mark: number): boolean =>
  metrics.profitFactor === null ? (metrics.winners ?? 0) > 0 : metrics.profitFactor >= mark;

/** Bars that a run's clock has. */
export const barsOf = (run: PreparedRun): number => run.clock.times.length;

/** Points that a drawn curve has at most; what a screen shows needs no more, and stored results stay small. */
const MOST_POINTS = 1000;

/** Every so many places of a series, the first and the last among them; all where they are few enough. */
export function sparse(length: number, most = MOST_POINTS): number[] {
  if (length <= most) return Array.from({ length }, (_, k) => k);
  return Array.from({ length: most }, (_, k) => Math.round((k * (length - 1)) / (most - 1)));
}

/** A curve with as many points as a drawing needs. */
export function drawnCurve({ dates, equity }: DatedCurve): DatedCurve {
  const places = sparse(dates.length);
  return { dates: places.map((k) => dates[k]), equity: places.map((k) => equity[k]) };
}
