import { DAY, isIntraday, MarketCalendar, MINUTE, sessionDates, weekdayOf, type Bars, type Timeframe } from "#core/bars";

/** What series of the calendar and the session need to know beside the bars. */
export interface SeriesContext {
  calendar: MarketCalendar;
  timeframe: Timeframe;
}

/** Daily bars of a market that never closes: what bars alone are taken for. */
export const BARE: SeriesContext = { calendar: new MarketCalendar(null), timeframe: { unit: "day", count: 1 } };

type Column = Float64Array;
export type SeriesColumn = (bars: Bars, context: SeriesContext) => Column;

/** A value from the session date of each bar. */
const ofDate =
  (take: (date: Date, day: number) => number): SeriesColumn =>
  (bars, { calendar, timeframe }) => {
    let known = NaN;
    let value = NaN;
    return sessionDates(bars.time, timeframe, calendar).map((day) => {
      if (day !== known) {
        known = day;
        value = take(new Date(day * DAY), day);
      }
      return value;
    });
  };

const missing = (bars: Bars): Column => new Float64Array(bars.length).fill(NaN);

/** Minutes after midnight, in the session's zone, at which a bar ends; midnight itself is 24:00. */
const endTime: SeriesColumn = (bars, { calendar, timeframe }) => {
  if (!isIntraday(timeframe)) return missing(bars);
  return bars.time.map((time) => calendar.minuteOf(calendar.endOf(time, timeframe)) || 1440);
};

/** Goes through intraday bars session by session; on daily and coarser bars every value is missing. */
function bySession(start: (row: number) => void, take: (row: number) => number): (bars: Bars, context: SeriesContext) => Column {
  return (bars, { calendar, timeframe }) => {
    if (!isIntraday(timeframe)) return missing(bars);
    const dates = sessionDates(bars.time, timeframe, calendar);
    const out = new Float64Array(bars.length);
    for (let i = 0; i < bars.length; i++) {
      if (i === 0 || dates[i] !== dates[i - 1]) start(i);
      out[i] = take(i);
    }
    return out;
  };
}

/** The session's running value of a column: its first, its highest or its lowest so far. */
const running =
  (of: (bars: Bars) => Column, merge: (before: number, now: number) => number): SeriesColumn =>
  (bars, context) => {
    const column = of(bars);
    let value = NaN;
    return bySession(
      (row) => (value = column[row]),
      (row) => (value = merge(value, column[row])),
    )(bars, context);
  };

const sessionBar: SeriesColumn = (bars, context) => {
  let count = 0;
  return bySession(
    () => (count = 0),
    () => ++count,
  )(bars, context);
};

/** Minutes from the session's open to the bar's end. */
const sessionMinutes: SeriesColumn = (bars, { calendar, timeframe }) => {
  if (!isIntraday(timeframe)) return missing(bars);
  return bars.time.map((time) => {
    const span = calendar.sessionAt(time);
    return span === null ? NaN : (calendar.endOf(time, timeframe) - span.open) / MINUTE;
  });
};

/** Open, high, low and close of the previous session that has bars; of the previous bar on daily and coarser ones. */
interface Previous {
  open: Column;
  high: Column;
  low: Column;
  close: Column;
  /** open of the session at hand, or of the bar */
  now: Column;
}

function previous(bars: Bars, { calendar, timeframe }: SeriesContext): Previous {
  const out: Previous = { open: missing(bars), high: missing(bars), low: missing(bars), close: missing(bars), now: missing(bars) };
  const dates = isIntraday(timeframe) ? sessionDates(bars.time, timeframe, calendar) : null;
  let before = { open: NaN, high: NaN, low: NaN, close: NaN };
  let own = { open: NaN, high: -Infinity, low: Infinity, close: NaN };
  for (let i = 0; i < bars.length; i++) {
    if (i > 0 && (dates === null || dates[i] !== dates[i - 1])) {
      before = own;
      own = { open: NaN, high: -Infinity, low: Infinity, close: NaN };
    }
    if (Number.isNaN(own.open)) own.open = bars.open[i];
    own.high = Math.max(own.high, bars.high[i]);
    own.low = Math.min(own.low, bars.low[i]);
    own.close = bars.close[i];
    out.open[i] = before.open;
    out.high[i] = before.high;
    out.low[i] = before.low;
    out.close[i] = before.close;
    out.now[i] = own.open;
  }
  return out;
}

/** Standard floor-trader pivots of the previous session: 0 the pivot, 1 to 3 resistances, −1 to −3 supports. */
export function pivot(bars: Bars, context: SeriesContext, level: number): Column {
  const { high, low, close } = previous(bars, context);
  return high.map((h, i) => {
    const l = low[i];
    const p = (h + l + close[i]) / 3;
    switch (level) {
      case 1:
        return 2 * p - l;
      case -1:
        return 2 * p - h;
      case 2:
        return p + (h - l);
      case -2:
        return p - (h - l);
      case 3:
        return h + 2 * (p - l);
      case -3:
        return l - 2 * (h - p);
      default:
        return p;
    }
  });
}

/** Highest high (sign 1) or lowest low (−1) of the bars that end within the session's first minutes; missing until these have passed. */
export function opening(bars: Bars, context: SeriesContext, minutes: number, sign: 1 | -1): Column {
  const passed = sessionMinutes(bars, context);
  const column = sign === 1 ? bars.high : bars.low;
  let best = NaN;
  return bySession(
    () => (best = NaN),
    (row) => {
      if (passed[row] <= minutes && (Number.isNaN(best) || sign * column[row] > sign * best)) best = column[row];
      return passed[row] >= minutes ? best : NaN;
    },
  )(bars, context);
}

/** Session-to-date average price by volume; the typical price on daily and coarser bars. */
const vwap: SeriesColumn = (bars, context) => {
  const typical = bars.close.map((c, i) => (bars.high[i] + bars.low[i] + c) / 3);
  if (!isIntraday(context.timeframe)) return typical;
  let money = 0;
  let volume = 0;
  return bySession(
    () => (money = volume = 0),
    (row) => {
      money += typical[row] * bars.volume[row];
      volume += bars.volume[row];
      return volume > 0 ? money / volume : NaN;
    },
  )(bars, context);
};

/** Series of the calendar and the session: what each is, how it comes about, and bars before its first value. */
export const SESSION_SERIES: Readonly<Record<string, { definition: string; column: SeriesColumn; warmup?: number }>> = {
  year: { definition: "The year of the session date.", column: ofDate((date) => date.getUTCFullYear()) },
  month: { definition: "The month of the session date, 1 to 12.", column: ofDate((date) => date.getUTCMonth() + 1) },
  monthday: { definition: "The day of the month of the session date.", column: ofDate((date) => date.getUTCDate()) },
  weekday: { definition: "The weekday of the session date, 1 (Monday) to 7.", column: ofDate((_date, day) => weekdayOf(day)) },
  date: {
    definition: "The session date as YYYYMMDD.",
    column: ofDate((date) => date.getUTCFullYear() * 10_000 + (date.getUTCMonth() + 1) * 100 + date.getUTCDate()),
  },
  endTime: {
    definition:
      "When the bar ends, as minutes after midnight in the session's zone (compare with HH:MM); missing on daily and coarser bars.",
    column: endTime,
  },
  sessionOpen: {
    definition: "The session's first price; intraday only.",
    column: running(
      (bars) => bars.open,
      (before) => before,
    ),
  },
  sessionHigh: { definition: "The session's highest price so far; intraday only.", column: running((bars) => bars.high, Math.max) },
  sessionLow: { definition: "The session's lowest price so far; intraday only.", column: running((bars) => bars.low, Math.min) },
  sessionBar: { definition: "The bar's number in its session, from 1; intraday only.", column: sessionBar },
  sessionMinutes: { definition: "Minutes from the session's open to the bar's end; intraday only.", column: sessionMinutes },
  previousOpen: {
    definition: "The previous session's first price; the previous bar's on daily and coarser bars.",
    column: (b, c) => previous(b, c).open,
    warmup: 1,
  },
  previousHigh: { definition: "The previous session's highest price.", column: (b, c) => previous(b, c).high, warmup: 1 },
  previousLow: { definition: "The previous session's lowest price.", column: (b, c) => previous(b, c).low, warmup: 1 },
  previousClose: { definition: "The previous session's last price.", column: (b, c) => previous(b, c).close, warmup: 1 },
  gap: {
    definition: "The session's open minus the previous session's close.",
    column: (bars, context) => {
      const { now, close } = previous(bars, context);
      return now.map((open, i) => open - close[i]);
    },
    warmup: 1,
  },
  vwap: { definition: "Average price by volume since the session's open; the typical price on daily and coarser bars.", column: vwap },
};
