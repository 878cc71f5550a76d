import { mondayOf, weekdayOf, type Bars, type MarketCalendar, type Timeframe } from "#core/bars";

/** What the clock asks of a bar; bits, so that several may hold. */
export const EXIT_TIME = 1;
export const EXIT_WEEKDAY = 2;
/** at this bar's open, since the session before had no bar at or after the time */
export const LATE_TIME = 4;
export const LATE_WEEKDAY = 8;
/** no entry that would fill in the same session may be formed at this close; working ones end */
export const CUT = 16;
/** the bar ends with its session, so that an entry for the next open is one for another session */
export const LAST = 32;

export interface TimeExits {
  /** minutes after midnight */
  time: number | null;
  weekday: { weekday: number; time: number } | null;
}

/** Bits per row, and for every row the next one (itself included) that has any bit but LAST. */
export interface ClockMarks {
  bits: Uint8Array;
  next: Int32Array;
}

/** Marks the bars at which positions leave by the time of day, or by the weekday of each week. */
export function clockMarks(bars: Bars, dates: Float64Array, calendar: MarketCalendar, timeframe: Timeframe, exits: TimeExits): ClockMarks {
  const { length, time } = bars;
  const bits = new Uint8Array(length);
  const moments = new Map<number, number>();
  const moment = (date: number, minutes: number): number => {
    const key = date * 1441 + minutes;
    let known = moments.get(key);
    if (known === undefined) moments.set(key, (known = Math.min(calendar.momentIn(date, minutes), calendar.closeOf(date))));
    return known;
  };
  for (let row = 0; row < length; row++) {
    const date = dates[row];
    const end = calendar.endOf(time[row], timeframe);
    if (end >= calendar.closeOf(date)) bits[row] |= LAST;
    if (exits.time !== null) {
      if (end >= moment(date, exits.time)) bits[row] |= EXIT_TIME | CUT;
      if (row > 0 && date !== dates[row - 1] && (bits[row - 1] & EXIT_TIME) === 0) bits[row] |= LATE_TIME;
    }
    if (exits.weekday !== null) {
      const { weekday, time: minutes } = exits.weekday;
      if (calendar.sessionUpTo(mondayOf(date), weekday) === date) {
        // where the weekday has no session, positions leave with the last session before it
        const due = weekdayOf(date) === weekday ? moment(date, minutes) : calendar.closeOf(date);
        if (end >= due) bits[row] |= EXIT_WEEKDAY | CUT;
      }
      if (
        row > 0 &&
        date !== dates[row - 1] &&
        missedWeekday(calendar, weekday, dates[row - 1], date, (bits[row - 1] & EXIT_WEEKDAY) !== 0)
      )
        bits[row] |= LATE_WEEKDAY;
    }
  }
  const next = new Int32Array(length);
  let ahead = length;
  for (let row = length - 1; row >= 0; row--) {
    if ((bits[row] & ~LAST) !== 0) ahead = row;
    next[row] = ahead;
  }
  return { bits, next };
}

/** Whether a week's exit day lies from one session date up to another (excluded) without a bar that met it. */
function missedWeekday(calendar: MarketCalendar, weekday: number, from: number, to: number, met: boolean): boolean {
  for (let monday = mondayOf(from); monday < to; monday += 7) {
    const day = calendar.sessionUpTo(monday, weekday) ?? monday + weekday - 1;
    if (day >= from && day < to && !(day === from && met)) return true;
  }
  return false;
}
