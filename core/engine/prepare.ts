import {
  MarketCalendar,
  parseDate,
  resample,
  sessionDates,
  weekdayOf,
  type Bars,
  type DayNumber,
  type DatedSeries,
  type MarketSpec,
  type Session,
  type Timeframe,
} from "#core/bars";
import type { Costs, DocumentProblem, Settings, SettingsMarket } from "#core/documents";
import { ColumnStore } from "#core/rules";
import type { Compiled } from "./compile";

/** A market as the engine sees it: specification, bars of the strategy's timeframe, session dates, shared columns. */
export interface RunMarket {
  spec: MarketSpec;
  bars: Bars;
  dates: Float64Array;
  calendar: MarketCalendar;
  store: ColumnStore;
  /** names of its extra series */
  series: string[];
  /** whether any bar lies on a Saturday or Sunday */
  weekends: boolean;
  timeframe: Timeframe;
  /** finer bars that decide what happened inside a bar, where the run settings ask for them */
  fine: FineBars | null;
}

/** Finer bars: those of row r are `bars` from `from[r]` to `from[r + 1]` (excluded). */
export interface FineBars {
  bars: Bars;
  from: Int32Array;
}

/** One member of an account: a strategy on some of the markets, with its share of the account. A run has one, with weight 1. */
export interface RunMember {
  name: string | null;
  compiled: Compiled;
  /** indices into the run's markets */
  markets: number[];
  weight: number;
  /** weights that hold from a session date on, in order; before the first of them `weight` does */
  steps?: readonly WeightStep[];
  marketLimit: number | null;
}

export interface WeightStep {
  from: DayNumber;
  weight: number;
}

/** The run's clock: the union of the bar times of the traded markets within the dates, and each market's row at each time (−1: none). */
export interface Clock {
  times: Float64Array;
  dates: Float64Array;
  /** per market, or null where there is one market whose rows follow from `firstRow` */
  rows: (Int32Array | null)[];
  firstRow: number;
}

export interface AccountRules {
  capital: number;
  leverage: number;
  skipOnLackOfMargin: boolean;
  costs: Costs;
  intrabar: Settings["intrabar"];
  roundToTick: boolean;
  haltBelow: number;
  closeAtEnd: boolean;
}

export interface PreparedRun {
  markets: RunMarket[];
  members: RunMember[];
  clock: Clock;
  account: AccountRules;
  settings: Settings;
}

/**
 * Bars and calendar of one market in the strategy's timeframe, ready to be shared by runs and trials; finer bars are
 * resampled. Throws where `resampleFault` has something to say.
 */
export function runMarket(
  spec: MarketSpec & { series?: SettingsMarket["series"] },
  given: Bars,
  own: Timeframe,
  timeframe: Timeframe,
  columnBytes?: number,
  fineTimeframe: Timeframe | null = null,
): RunMarket {
  const made = ready(given, own, timeframe, spec.session);
  const { series = {} } = spec;
  const held = Object.fromEntries(Object.entries(series).filter((entry): entry is [string, DatedSeries] => typeof entry[1] !== "string"));
  return {
    spec,
    ...made,
    timeframe,
    fine: fineTimeframe === null ? null : fineBars(made, ready(given, own, fineTimeframe, spec.session).bars, timeframe),
    series: Object.keys(series),
    store: new ColumnStore(made.bars, columnBytes, held, { calendar: made.calendar, timeframe }),
  };
}

const knownFine = new WeakMap<Bars, FineBars>();

/** Sorts finer bars into the bars that hold them. Both were made of the same bars, so every fine bar has its row. */
function fineBars({ bars, calendar }: ReadyBars, fine: Bars, timeframe: Timeframe): FineBars {
  const known = knownFine.get(fine);
  if (known?.from.length === bars.length + 1) return known;
  const from = new Int32Array(bars.length + 1);
  let at = 0;
  for (let row = 0; row < bars.length; row++) {
    from[row] = at;
    const end = calendar.endOf(bars.time[row], timeframe);
    while (at < fine.length && fine.time[at] < end) at++;
  }
  from[bars.length] = at;
  const made = { bars: fine, from };
  knownFine.set(fine, made);
  return made;
}

interface ReadyBars {
  bars: Bars;
  dates: Float64Array;
  calendar: MarketCalendar;
  weekends: boolean;
}

/** What was made ready of bars that are still in use, by timeframes and session: every run on them needs the same. */
const known = new WeakMap<Bars, Map<string, ReadyBars>>();

function ready(given: Bars, own: Timeframe, timeframe: Timeframe, session: Session | null): ReadyBars {
  let kinds = known.get(given);
  if (kinds === undefined) known.set(given, (kinds = new Map()));
  const key = JSON.stringify([own, timeframe, session]);
  let made = kinds.get(key);
  if (made === undefined) {
    const calendar = new MarketCalendar(session);
    const { bars } = resample(given, own, timeframe, calendar);
    const dates = sessionDates(bars.time, timeframe, calendar);
    kinds.set(key, (made = { bars, dates, calendar, weekends: onWeekends(dates) }));
  }
  return made;
}

function onWeekends(dates: Float64Array): boolean {
  for (let i = 0; i < dates.length; i++) if ((i === 0 || dates[i] !== dates[i - 1]) && weekdayOf(dates[i]) > 5) return true;
  return false;
}

/** Checks that members, settings and bars fit together, and lays the clock. */
export function prepareRun(
  members: RunMember[],
  settings: Settings,
  markets: RunMarket[],
): { value: PreparedRun; problems: [] } | { value: null; problems: DocumentProblem[] } {
  const problems: DocumentProblem[] = [];
  for (const member of members) {
    const { sizing } = member.compiled.strategy;
    if (sizing.mode === "equalShare" && member.marketLimit === null)
      problems.push({ path: "marketLimit", message: "equalShare needs a marketLimit to divide the equity by" });
    for (const symbol of member.compiled.others)
      if (!markets.some((market) => market.spec.symbol === symbol))
        problems.push({ path: "markets", message: `a rule looks at ${symbol}, which isn't one of the markets` });
    for (const k of member.markets)
      for (const name of member.compiled.extras)
        if (!markets[k].series.includes(name))
          problems.push({
            path: `markets[${k}].series`,
            message: `${markets[k].spec.symbol} has no extra series “${name}”, which a rule asks for`,
          });
  }
  for (const member of members) problems.push(...clockProblems(member, markets));
  if (problems.length > 0) return { value: null, problems };
  const stores = new Map(markets.map((market) => [market.spec.symbol, market.store]));
  for (const { store } of markets) store.link((symbol) => stores.get(symbol) ?? null);
  const traded = [...new Set(members.flatMap((member) => member.markets))];
  const clock = layClock(
    traded,
    markets,
    settings.from === null ? -Infinity : parseDate(settings.from)!,
    settings.to === null ? Infinity : parseDate(settings.to)!,
  );
  if (clock.times.length === 0) {
    const window =
      settings.from === null && settings.to === null ? "" : ` from ${settings.from ?? "the start"} to ${settings.to ?? "the end"}`;
    const held = traded.map((m) => range(markets[m])).join("; ");
    return { value: null, problems: [{ path: settings.from === null ? "to" : "from", message: `there are no bars${window}: ${held}` }] };
  }
  const { costs } = settings;
  return {
    value: {
      markets,
      members,
      clock,
      settings,
      account: {
        capital: settings.capital,
        leverage: settings.leverage,
        skipOnLackOfMargin: settings.onLackOfMargin === "skip",
        costs,
        intrabar: settings.intrabar,
        roundToTick: settings.roundToTick,
        haltBelow: (settings.capital * settings.haltBelowPercent) / 100,
        closeAtEnd: settings.closeAtEnd,
      },
    },
    problems: [],
  };
}

/** Times of day that a market's session doesn't have. */
function clockProblems(member: RunMember, markets: RunMarket[]): DocumentProblem[] {
  const { exitAt, exitWeekday } = member.compiled.protect;
  return member.markets.flatMap((k) => {
    const { calendar, spec } = markets[k];
    return [exitAt, exitWeekday?.time ?? null].flatMap((minutes, i) => {
      const fault = minutes === null ? null : calendar.timeFault(minutes);
      const path = `markets[${k}].session`;
      return fault === null ? [] : [{ path, message: `the strategy's ${i === 0 ? "exitAt" : "exitWeekday"} ${fault} of ${spec.symbol}` }];
    });
  });
}

function range(market: RunMarket): string {
  const { bars, spec } = market;
  if (bars.length === 0) return `${spec.symbol} has none at all`;
  const day = (time: number) => new Date(time).toISOString().slice(0, 10);
  return `${spec.symbol} has bars from ${day(bars.time[0])} to ${day(bars.time[bars.length - 1])}`;
}

/** The market's row of a leg at a clock time; −1 where it has no bar there. */
export function rowAt({ clock }: PreparedRun, leg: { marketIndex: number }, t: number): number {
  const rows = clock.rows[leg.marketIndex];
  return rows === null ? clock.firstRow + t : rows[t];
}

function layClock(traded: number[], markets: RunMarket[], from: number, to: number): Clock {
  const rows: (Int32Array | null)[] = markets.map(() => null);
  const window = (market: RunMarket): [number, number] => {
    let first = 0;
    let last = market.bars.length;
    while (first < last && market.dates[first] < from) first++;
    while (last > first && market.dates[last - 1] > to) last--;
    return [first, last];
  };
  if (traded.length === 1) {
    const market = markets[traded[0]];
    const [first, last] = window(market);
    return { times: market.bars.time.subarray(first, last), dates: market.dates.subarray(first, last), rows, firstRow: first };
  }
  const spans = traded.map((m) => window(markets[m]));
  const union = new Set<number>();
  traded.forEach((m, k) => {
    for (let i = spans[k][0]; i < spans[k][1]; i++) union.add(markets[m].bars.time[i]);
  });
  const times = Float64Array.from(union).sort();
  const dates = new Float64Array(times.length).fill(NaN);
  traded.forEach((m, k) => {
    const own = new Int32Array(times.length).fill(-1);
    let row = spans[k][0];
    for (let t = 0; t < times.length; t++) {
      if (row < spans[k][1] && markets[m].bars.time[row] === times[t]) {
        own[t] = row;
        if (Number.isNaN(dates[t])) dates[t] = markets[m].dates[row];
        row++;
      }
    }
    rows[m] = own;
  });
  return { times, dates, rows, firstRow: 0 };
}
