import type { Grouping } from "#core/reading";

export const GROUPING_WORDS: Record<Grouping, string> = {
  market: "market",
  sector: "sector",
  side: "side",
  reason: "reason of the exit",
  year: "year of the exit",
  month: "month of the exit",
  weekday: "weekday of the entry",
  hour: "hour of the entry",
};
