import { firstOfMonth, formatDate, mondayOf, monthOf, weekdayOf, type DayNumber, type Timeframe } from "#core/bars";
import type { RunMarket } from "./prepare";

/** The first session date after a date by a market's calendar; on weekly and monthly bars after that week or month. */
export function nextSession({ calendar, weekends }: RunMarket, timeframe: Timeframe, last: DayNumber): string {
  let date = last + 1;
  if (timeframe.unit === "week") date = mondayOf(last) + 7;
  if (timeframe.unit === "month") date = firstOfMonth(monthOf(last) + 1);
  const open = (day: DayNumber) => (calendar.session === null ? weekends || weekdayOf(day) <= 5 : calendar.isSessionDate(day));
  while (!open(date)) date++;
  return formatDate(date);
}
