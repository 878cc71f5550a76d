/** Bars as columns: one Float64Array per field, all of one length. Times are bar starts in epoch milliseconds UTC. */
export interface Bars {
  readonly length: number;
  readonly time: Float64Array;
  readonly open: Float64Array;
  readonly high: Float64Array;
  readonly low: Float64Array;
  readonly close: Float64Array;
  readonly volume: Float64Array;
}

export const BAR_COLUMNS = ["time", "open", "high", "low", "close", "volume"] as const;
export type BarColumn = (typeof BAR_COLUMNS)[number];

/** Makes bars of `length` rows, all zero. */
export function emptyBars(length: number): Bars {
  return {
    length,
    time: new Float64Array(length),
    open: new Float64Array(length),
    high: new Float64Array(length),
    low: new Float64Array(length),
    close: new Float64Array(length),
    volume: new Float64Array(length),
  };
}

/** The bars from row `from` (included) to row `to` (excluded), as views on the same memory. */
export function sliceBars(bars: Bars, from: number, to: number): Bars {
  return {
    length: Math.max(0, to - from),
    time: bars.time.subarray(from, to),
    open: bars.open.subarray(from, to),
    high: bars.high.subarray(from, to),
    low: bars.low.subarray(from, to),
    close: bars.close.subarray(from, to),
    volume: bars.volume.subarray(from, to),
  };
}

/** What breaks a bar, in a sentence, or null where the bar is valid. A non-finite figure is named with its column. */
export function barFault(open: number, high: number, low: number, close: number, volume: number): string | null {
  if (!Number.isFinite(open + high + low + close + volume))
    for (const [name, value] of Object.entries({ open, high, low, close, volume }))
      if (!Number.isFinite(value)) return `${name} is not a number`;
  if (high < open || high < close) return "high is below open or close";
  if (low > open || low > close) return "low is above open or close";
  if (volume < 0) return "volume is negative";
  return null;
}

/** Index of the first row whose time is ≥ `time` (length where there is none). `times` must rise. */
export function firstAtOrAfter(times: ArrayLike<number>, time: number): number {
  let low = 0;
  let high = times.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (times[middle] < time) low = middle + 1;
    else high = middle;
  }
  return low;
}
