import { firstOfMonth, mondayOf, monthOf, parseClock, parseDate, weekdayOf, type DayNumber } from "./dates";
import type { Session } from "./market";
import { DAY, MINUTE, isIntraday, type Timeframe } from "./timeframe";
import { Zone } from "./zone";

/** One session in time: its date, and its first and last instant (epoch milliseconds, the close excluded). */
export interface SessionSpan {
  readonly date: DayNumber;
  readonly open: number;
  readonly close: number;
}

/**
 * The session calendar of a market: which session a moment belongs to, and when bars end.
 * A market without a session trades round the clock in UTC, its day starting at 00:00.
 */
export class MarketCalendar {
  private readonly zone: Zone;
  private readonly openMinutes: number;
  private readonly closeMinutes: number;
  private readonly overMidnight: boolean;
  private readonly days: ReadonlySet<number> | null;
  private readonly holidays: ReadonlySet<DayNumber>;
  private readonly early: ReadonlyMap<DayNumber, number>;
  private readonly spans = new Map<DayNumber, SessionSpan | null>();

  constructor(readonly session: Session | null) {
    this.zone = new Zone(session?.zone ?? "UTC");
    this.openMinutes = session ? (parseClock(session.open) ?? 0) : 0;
    this.closeMinutes = session ? (parseClock(session.close) ?? 1440) : 1440;
    this.overMidnight = this.closeMinutes <= this.openMinutes;
    this.days = session ? new Set(session.days) : null;
    this.holidays = new Set((session?.holidays ?? []).map((text) => parseDate(text) ?? NaN));
    this.early = new Map(
      Object.entries(session?.earlyCloses ?? {}).map(([date, close]) => [parseDate(date) ?? NaN, parseClock(close) ?? 0]),
    );
  }

  /** Whether a date has a session by the calendar. */
  isSessionDate(date: DayNumber): boolean {
    return (this.days === null || this.days.has(weekdayOf(date))) && !this.holidays.has(date);
  }

  /** The span of a date's session, or null where the date has none. */
  span(date: DayNumber): SessionSpan | null {
    if (this.session === null) return { date, open: date * DAY, close: (date + 1) * DAY };
    const known = this.spans.get(date);
    if (known !== undefined) return known;
    let span: SessionSpan | null = null;
    if (this.isSessionDate(date)) {
      const close = this.early.get(date) ?? this.closeMinutes;
      span = {
        date,
        open: this.zone.instant(this.overMidnight ? date - 1 : date, this.openMinutes),
        close: this.zone.instant(date, close),
      };
    }
    this.spans.set(date, span);
    return span;
  }

  /** The session that holds an instant, or null outside every session. */
  sessionAt(time: number): SessionSpan | null {
    const day = this.zone.day(time);
    for (let date = day; date <= day + 1; date++) {
      const span = this.span(date);
      if (span !== null && time >= span.open && time < span.close) return span;
    }
    return null;
  }

  /**
   * Session date of a bar. Daily and coarser bars carry it in their time; intraday bars take that of the session that
   * holds their start, and the local date outside every session.
   */
  dateOf(time: number, timeframe: Timeframe): DayNumber {
    if (!isIntraday(timeframe) || this.session === null) return Math.floor(time / DAY);
    return this.sessionAt(time)?.date ?? this.zone.day(time);
  }

  /** Minutes after local midnight at an instant. */
  minuteOf(time: number): number {
    const local = time + this.zone.offset(time);
    return Math.floor((((local % DAY) + DAY) % DAY) / MINUTE);
  }

  /** The close of a date's session; 24:00 local time where the date has none. */
  closeOf(date: DayNumber): number {
    return this.span(date)?.close ?? this.zone.instant(date, 1440);
  }

  /** Why a time of day (minutes after midnight) lies outside the session, in a sentence, or null where it lies in it. */
  timeFault(minutes: number): string | null {
    if (this.session === null) return null;
    const { openMinutes: open, closeMinutes: close } = this;
    const inside = this.overMidnight ? minutes >= open || minutes <= close : minutes >= open && minutes <= close;
    return inside ? null : `lies outside the session, ${this.session.open} to ${this.session.close}`;
  }

  /** When a time of day comes in the session of a date; in a session over midnight, times after its close belong to the day before. */
  momentIn(date: DayNumber, minutes: number): number {
    return this.zone.instant(this.overMidnight && minutes > this.closeMinutes ? date - 1 : date, minutes);
  }

  /** The last date with a session, by the calendar, up to a weekday (1–7) in the week of a Monday; null without one. */
  sessionUpTo(monday: DayNumber, weekday: number): DayNumber | null {
    for (let day = monday + weekday - 1; day >= monday; day--) if (this.isSessionDate(day)) return day;
    return null;
  }

  /** When a bar ends, in epoch milliseconds. */
  endOf(time: number, timeframe: Timeframe): number {
    if (isIntraday(timeframe)) {
      const end = time + timeframe.count * MINUTE;
      const span = this.session === null ? null : this.sessionAt(time);
      return span === null ? end : Math.min(end, span.close);
    }
    const date = Math.floor(time / DAY);
    if (timeframe.unit === "day") return this.closeOf(date);
    const [first, last] =
      timeframe.unit === "week" ? [mondayOf(date), mondayOf(date) + 6] : [firstOfMonth(monthOf(date)), firstOfMonth(monthOf(date) + 1) - 1];
    for (let day = last; day >= first; day--) if (this.isSessionDate(day)) return this.closeOf(day);
    return this.zone.instant(last, 1440);
  }
}

/** Session dates of all bars, as day numbers. */
export function sessionDates(times: Float64Array, timeframe: Timeframe, calendar: MarketCalendar): Float64Array {
  const dates = new Float64Array(times.length);
  if (!isIntraday(timeframe) || calendar.session === null) {
    for (let i = 0; i < times.length; i++) dates[i] = Math.floor(times[i] / DAY);
    return dates;
  }
  let span: SessionSpan | null = null;
  for (let i = 0; i < times.length; i++) {
    const time = times[i];
    if (span === null || time < span.open || time >= span.close) span = calendar.sessionAt(time);
    dates[i] = span === null ? calendar.dateOf(time, timeframe) : span.date;
  }
  return dates;
}
