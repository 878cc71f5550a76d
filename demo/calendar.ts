import { firstOfMonth, MarketCalendar, parseDate, weekdayOf, type Session } from "#core/bars";

/** First and last date of the demo's bars. */
export const FIRST = parseDate("2004-01-02")!;
export const LAST = parseDate("2025-12-30")!;

/** Trading hours of the Saltmarch Exchange, in the harbour country's time. */
export const SALTMARCH_HOURS = { zone: "Europe/Copenhagen", open: "09:00", close: "17:30", days: [1, 2, 3, 4, 5] };

const format = (year: number, day: string) => `${year}-${day}`;

/** Harbour holidays: New Year, Tidewatch (first Monday of May), midsummer, the winter days. Early closes on their eves. */
export function saltmarchSession(): Session {
  const holidays: string[] = [];
  const earlyCloses: Record<string, string> = {};
  for (let year = 2004; year <= 2028; year++) {
    const may = firstOfMonth((year - 1970) * 12 + 4);
    const tidewatch = may + ((8 - weekdayOf(may)) % 7);
    holidays.push(
      format(year, "01-01"),
      new Date(tidewatch * 86_400_000).toISOString().slice(0, 10),
      format(year, "06-24"),
      format(year, "12-25"),
      format(year, "12-26"),
    );
    earlyCloses[format(year, "12-24")] = "13:00";
    earlyCloses[format(year, "12-31")] = "13:00";
  }
  return { ...SALTMARCH_HOURS, holidays, earlyCloses };
}

/** Session dates from the demo's first on, oldest first. */
export function saltmarchDates(last = LAST): number[] {
  const calendar = new MarketCalendar(saltmarchSession());
  const dates: number[] = [];
  for (let day = FIRST; day <= last; day++) if (calendar.isSessionDate(day)) dates.push(day);
  return dates;
}

/** Every date of the demo, for a market that never closes. */
export const allDates = (last = LAST): number[] => Array.from({ length: last - FIRST + 1 }, (_, i) => FIRST + i);
