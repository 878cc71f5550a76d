import { DAY } from "./timeframe";

/** Calendar dates are day numbers: whole days since 1970-01-01. */
export type DayNumber = number;

/** The day number of `YYYY-MM-DD`; null where it is no date of the calendar. */
export function parseDate(text: string): DayNumber | null {
  const match = /^(\d{4})-(\d{2})-(\d{2})$/.exec(text);
  if (!match) return null;
  const time = Date.UTC(Number(match[1]), Number(match[2]) - 1, Number(match[3]));
  const day = Math.round(time / DAY);
  return formatDate(day) === text ? day : null;
}

/** `YYYY-MM-DD` of a day number. */
export const formatDate = (day: DayNumber): string => new Date(day * DAY).toISOString().slice(0, 10);

/** ISO weekday, 1 (Monday) to 7. */
export const weekdayOf = (day: DayNumber): number => ((((day + 3) % 7) + 7) % 7) + 1;

/** Monday of the ISO week that holds the day. */
export const mondayOf = (day: DayNumber): DayNumber => day - (weekdayOf(day) - 1);

/** Months since 1970-01, a number that identifies a calendar month. */
export function monthOf(day: DayNumber): number {
  const date = new Date(day * DAY);
  return (date.getUTCFullYear() - 1970) * 12 + date.getUTCMonth();
}

/** Day number of a month's first day, from months since 1970-01. */
export const firstOfMonth = (month: number): DayNumber =>
  Math.round(Date.UTC(1970 + Math.floor(month / 12), ((month % 12) + 12) % 12, 1) / DAY);

/** `YYYY-MM` of a month number. */
export const formatMonth = (month: number): string => formatDate(firstOfMonth(month)).slice(0, 7);

/** Minutes after midnight of `HH:MM` (00:00 to 24:00), or null. */
export function parseClock(text: string): number | null {
  const match = /^(\d{2}):(\d{2})$/.exec(text);
  if (!match) return null;
  const minutes = Number(match[1]) * 60 + Number(match[2]);
  return Number(match[2]) < 60 && minutes <= 1440 ? minutes : null;
}
