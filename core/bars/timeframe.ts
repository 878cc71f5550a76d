/** A timeframe: a whole number of minutes (1 to 1440), or one day, week or month. Written `5m`, `1h`, `1d`, `1w`, `1M`. */
export interface Timeframe {
  readonly unit: "minute" | "day" | "week" | "month";
  /** Number of minutes for `minute`, else 1. */
  readonly count: number;
}

export const MINUTE = 60_000;
export const DAY = 86_400_000;

/** Reads `20m`, `3h`, `1d`, `1w`, `1M`; null where the text is no timeframe. */
export function parseTimeframe(text: string): Timeframe | null {
  const match = /^(\d{1,5})([mhdwM])$/.exec(text);
  if (!match) return null;
  const n = Number(match[1]);
  if (n < 1) return null;
  if (match[2] === "m" || match[2] === "h") {
    const minutes = match[2] === "h" ? n * 60 : n;
    return minutes <= 1440 ? { unit: "minute", count: minutes } : null;
  }
  if (n !== 1) return null;
  return { unit: match[2] === "d" ? "day" : match[2] === "w" ? "week" : "month", count: 1 };
}

/** The shortest usual way of writing a timeframe: whole hours as `h`. */
export function formatTimeframe(timeframe: Timeframe): string {
  if (timeframe.unit === "minute") return timeframe.count % 60 === 0 ? `${timeframe.count / 60}h` : `${timeframe.count}m`;
  return timeframe.unit === "day" ? "1d" : timeframe.unit === "week" ? "1w" : "1M";
}

const RANK = { minute: 0, day: 1, week: 2, month: 3 } as const;

/** Negative where a is finer than b, positive where coarser, 0 where equal. */
export function compareTimeframes(a: Timeframe, b: Timeframe): number {
  return RANK[a.unit] - RANK[b.unit] || a.count - b.count;
}

export const isIntraday = (timeframe: Timeframe): boolean => timeframe.unit === "minute";
