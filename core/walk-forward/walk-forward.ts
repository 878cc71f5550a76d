import { formatDate, type Bars, type DayNumber } from "#core/bars";
import type { DocumentProblem, Metrics, Settings, Strategy } from "#core/documents";
import { nextSession, prepareRun, simulate, type Compiled, type RunMarket, type Simulation } from "#core/engine";
import { METRIC_INDEX, wholeFigures } from "#core/metrics";
import { judge, laySpace, metricsRecord, runSearch, searchOver, searchSettings, writtenValues, type Space } from "#core/optimize";
import { warmup } from "#core/rules";
import { runMarkets, soleMember, timeframeProblems } from "#core/runs";
import type { WalkForward } from "./plan";
import { datesWithin, outDates, windowsFault, windowsOf, type Part } from "./windows";

/** What a fit chose: its values and figures in sample; null where every trial was outside. */
export interface Chosen {
  values: Record<string, number>;
  metrics: Float64Array;
}

/** A run out of sample: its figures, its last equity ÷ capital, and the equity at the end of each of its dates. */
interface Judgement {
  metrics: Float64Array;
  growth: number;
  dates: DayNumber[];
  equity: number[];
}

export interface WindowRecord {
  fit: { from: string; to: string };
  judge: { from: string; to: string };
  values: Record<string, number | boolean> | null;
  in: Metrics | null;
  out: Metrics;
}

export interface WalkForwardDocument {
  format: "canyon.walk-forward-result/1";
  windows: WindowRecord[];
  stitched: { date: string[]; equity: number[] };
  efficiency: number | null;
  profitable: number;
  largestShare: number | null;
  steadiness: Record<string, number>;
  refitEvery: number;
  nextRefit: string;
}

export type Prepared = { value: Walker; problems: [] } | { value: null; problems: DocumentProblem[] };

/** Growth per date below which a quotient of growths says nothing: 1 % a year. */
const LEAST_GROWTH = Math.log(1.01) / 252;

/**
 * Walks a strategy forward over its bars, in any division of the dates. Fits and judgements are kept, so that walks which
 * have a window in common share its work.
 */
export class Walker {
  readonly dates: DayNumber[];
  private readonly fits = new Map<string, Chosen | null>();
  private readonly judgements = new Map<string, Judgement>();

  private constructor(
    private readonly space: Space,
    private readonly settings: Settings,
    private readonly plan: WalkForward,
    private readonly bars: readonly Bars[],
    private readonly markets: RunMarket[],
  ) {
    this.dates = datesWithin(markets[0], settings.from, settings.to);
  }

  /** Checks everything that can be wrong before anything runs. `bars` in the order of the settings' markets. */
  static prepare(strategy: Strategy, given: Settings, plan: WalkForward, bars: readonly Bars[]): Prepared {
    const space = laySpace(strategy, plan.search);
    if (space.value === null) return { value: null, problems: space.problems };
    const { compiled } = space.value;
    const settings = { ...searchSettings(given, plan.from, plan.to), closeAtEnd: true };
    const faults: DocumentProblem[] = timeframeProblems(settings, compiled.timeframe).map((p) => ({ ...p, path: `settings.${p.path}` }));
    if (faults.length > 0) return { value: null, problems: faults };
    const markets = runMarkets(settings, bars, compiled.timeframe);
    const whole = prepareRun([soleMember(compiled, settings)], settings, markets);
    if (whole.value === null) return { value: null, problems: whole.problems.map((p) => ({ ...p, path: `settings.${p.path}` })) };
    const walker = new Walker(space.value, settings, plan, bars, markets);
    for (const windows of plan.windows)
      for (const outShare of plan.outShare) {
        const fault = windowsFault(windowsOf(walker.dates.length, windows, outShare, plan.anchored), walker.dates.length);
        if (fault !== null) faults.push({ path: "windows", message: fault });
      }
    return faults.length > 0 ? { value: null, problems: faults.slice(0, 1) } : { value: walker, problems: [] };
  }

  /** One walk-forward. */
  walk(windows: number, outShare: number): WalkForwardDocument {
    const { dates, space } = this;
    const { compiled, axes } = space;
    const parts = windowsOf(dates.length, windows, outShare, this.plan.anchored);
    const chosen = parts.map(({ fit }) => this.fit(fit));
    const judged = parts.map((part, k) => this.judge(part.judge, chosen[k]));
    const { capital } = this.settings;
    const profits = judged.map(({ metrics }) => metrics[METRIC_INDEX.netProfit]);
    const positive = profits.filter((x) => x > 0);
    const span = ({ from, to }: Part) => ({ from: formatDate(dates[from]), to: formatDate(dates[to - 1]) });
    return {
      format: "canyon.walk-forward-result/1",
      windows: parts.map((part, k) => ({
        fit: span(part.fit),
        judge: span(part.judge),
        values: chosen[k] === null ? null : writtenValues(chosen[k].values, compiled),
        in: chosen[k] === null ? null : metricsRecord(chosen[k].metrics),
        out: metricsRecord(judged[k].metrics),
      })),
      stitched: stitch(judged, capital),
      efficiency: efficiencyOf(
        parts.map((part, k) => ({
          inside: part.fit.to - part.fit.from,
          outside: part.judge.to - part.judge.from,
          grewInside: chosen[k] === null ? 1 : 1 + chosen[k].metrics[METRIC_INDEX.netProfit] / capital,
          grewOutside: chosen[k] === null ? 1 : judged[k].growth,
        })),
      ),
      profitable: positive.length / windows,
      largestShare: positive.length === 0 ? null : Math.max(...positive) / positive.reduce((sum, x) => sum + x, 0),
      steadiness: Object.fromEntries(
        axes.map((axis, a) => {
          const { kind } = compiled.variable.get(axis.name)!;
          const values = chosen.flatMap((one) => (one === null ? [] : [one.values[axis.name]]));
          return [axis.name, steadinessOf(values, kind === "variant" || kind === "yesNo" ? null : axes[a].values)];
        }),
      ),
      refitEvery: Math.floor(outDates(dates.length, windows, outShare) + 0.5),
      nextRefit: nextSession(this.markets[0], compiled.timeframe, dates[dates.length - 1]),
    };
  }

  /** The parts that walks are fitted on, each once, in order; what each chose can be computed anywhere and handed in. */
  fitParts(windows: readonly number[], outShares: readonly number[]): Part[] {
    const parts = new Map<string, Part>();
    for (const count of windows)
      for (const share of outShares)
        for (const { fit } of windowsOf(this.dates.length, count, share, this.plan.anchored)) parts.set(keyOf(fit), fit);
    return [...parts.values()].sort((a, b) => a.from - b.from || a.to - b.to);
  }

  /** The part on which the values of the time after the last date are fitted. */
  nextPart(windows: number, outShare: number): Part {
    const n = this.dates.length;
    const { fit } = windowsOf(n, windows, outShare, this.plan.anchored)[0];
    return { from: this.plan.anchored ? 0 : n - (fit.to - fit.from), to: n };
  }

  /** Capital of every part. */
  get capital(): number {
    return this.settings.capital;
  }

  /** Bars of the first market that there are before the first window is judged, the ones that warm up included. */
  barsOfFirstFit(windows: number, outShare: number): number {
    const [{ judge }] = windowsOf(this.dates.length, windows, outShare, this.plan.anchored);
    const { dates } = this.markets[0];
    const end = this.dates[judge.from];
    let rows = 0;
    while (rows < dates.length && dates[rows] < end) rows++;
    return rows;
  }

  /** Bars before which the rules can't say anything, whatever values of the search they have. */
  get longestWarmup(): number {
    const { compiled, axes } = this.space;
    const rules = [compiled.long?.enter, compiled.short?.enter].flatMap((rule) => rule ?? []);
    const most = { ...compiled.values, ...Object.fromEntries(axes.map((axis) => [axis.name, Math.max(...axis.values)])) };
    return Math.max(0, ...rules.map((rule) => warmup(rule, most)));
  }

  /** Closed trades of the strategy as it stands over all dates. */
  get tradesAsItStands(): number {
    const all = this.judge({ from: 0, to: this.dates.length }, { values: { ...this.space.compiled.values }, metrics: new Float64Array(0) });
    return all.metrics[METRIC_INDEX.trades];
  }

  /** Hands in what a part's fit chose elsewhere. */
  know(part: Part, chosen: Chosen | null): void {
    this.fits.set(keyOf(part), chosen);
  }

  /** Values as a document has them. */
  written(chosen: Chosen): Record<string, number | boolean> {
    return writtenValues(chosen.values, this.space.compiled);
  }

  /** The strategy as it stands over the dates that walks are judged on: one run, its equity by date. */
  fixed(windows: number, outShare: number): { dates: DayNumber[]; equity: number[] } {
    const parts = windowsOf(this.dates.length, windows, outShare, this.plan.anchored);
    const { dates, equity } = this.judge(
      { from: parts[0].judge.from, to: this.dates.length },
      { values: { ...this.space.compiled.values }, metrics: new Float64Array(0) },
    );
    return { dates, equity };
  }

  private partSettings({ from, to }: Part): Settings {
    return { ...this.settings, from: formatDate(this.dates[from]), to: formatDate(this.dates[to - 1]) };
  }

  /** What the search chooses on a part of the dates. */
  fit(part: Part): Chosen | null {
    const key = keyOf(part);
    const known = this.fits.get(key);
    if (known !== undefined) return known;
    const prepared = searchOver(this.space, this.partSettings(part), this.plan.search, this.bars, this.markets);
    if (prepared.value === null) throw new Error(prepared.problems.map((p) => p.message).join("; "));
    const { trials, combinations } = runSearch(prepared.value);
    const { best, plateau } = judge(
      prepared.value,
      trials.map((trial) => trial.metrics),
      combinations,
    );
    const number = this.plan.choose === "recommended" ? (plateau.recommended ?? best) : best;
    const chosen = number === null ? null : { values: trials[number].values, metrics: trials[number].metrics };
    this.fits.set(key, chosen);
    return chosen;
  }

  /** A run on a part with what was chosen; one without a trade where nothing was. */
  private judge(part: Part, chosen: Chosen | null): Judgement {
    const key = JSON.stringify([part, chosen?.values ?? null]);
    const known = this.judgements.get(key);
    if (known !== undefined) return known;
    const { compiled } = this.space;
    const settings = this.partSettings(part);
    const flat: Compiled = { ...compiled, long: null, short: null };
    const run = prepareRun([soleMember(chosen === null ? flat : compiled, settings)], settings, this.markets);
    if (run.value === null) throw new Error(run.problems.map((p) => p.message).join("; "));
    const simulation = simulate(run.value, { values: [{ ...compiled.values, ...chosen?.values }] });
    const { equity } = simulation;
    const judgement: Judgement = {
      metrics: wholeFigures(simulation),
      growth: equity[equity.length - 1] / settings.capital,
      ...byDate(simulation),
    };
    this.judgements.set(key, judgement);
    return judgement;
  }
}

const keyOf = ({ from, to }: Part): string => `${from} ${to}`;

/** Last equity of each session date. */
function byDate({ run, equity }: Simulation): { dates: DayNumber[]; equity: number[] } {
  const { dates } = run.clock;
  const out = { dates: [] as DayNumber[], equity: [] as number[] };
  for (let t = 0; t < dates.length; t++)
    if (t + 1 === dates.length || dates[t + 1] !== dates[t]) {
      out.dates.push(dates[t]);
      out.equity.push(equity[t]);
    }
  return out;
}

/** The judged parts' daily returns one after the other, on the capital; 0 from a date on that leaves nothing. */
function stitch(parts: readonly Judgement[], capital: number): { date: string[]; equity: number[] } {
  const out = { date: [] as string[], equity: [] as number[] };
  let value = capital;
  for (const { dates, equity } of parts) {
    let before = capital;
    dates.forEach((date, k) => {
      value = value === 0 || !(equity[k] > 0) ? 0 : (value * equity[k]) / before;
      before = equity[k];
      out.date.push(formatDate(date));
      out.equity.push(value);
    });
  }
  return out;
}

/** Growth per date out of sample ÷ growth per date in sample; null where an account came to nothing, or grew too little in sample. */
function efficiencyOf(parts: readonly { inside: number; outside: number; grewInside: number; grewOutside: number }[]): number | null {
  let [inside, outside, insideDates, outsideDates] = [0, 0, 0, 0];
  for (const part of parts) {
    if (!(part.grewInside > 0) || !(part.grewOutside > 0)) return null;
    inside += Math.log(part.grewInside);
    outside += Math.log(part.grewOutside);
    insideDates += part.inside;
    outsideDates += part.outside;
  }
  const perDate = inside / insideDates;
  return perDate < LEAST_GROWTH ? null : outside / outsideDates / perDate;
}

/** How little a value moves from window to window: 1 − mean change ÷ its span, or the share of changes that kept it. */
function steadinessOf(values: readonly number[], range: readonly number[] | null): number {
  if (values.length < 2) return 1;
  const changes = values.slice(1).map((x, i) => Math.abs(x - values[i]));
  if (range === null) return changes.filter((change) => change === 0).length / changes.length;
  const span = range.length === 1 ? 1 : Math.max(...range) - Math.min(...range);
  return 1 - changes.reduce((sum, x) => sum + x, 0) / changes.length / span;
}
