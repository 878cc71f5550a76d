/**
 * The baseline: a loop that a user would write by hand over typed arrays for one strategy. Two averages, always reversing
 * at the following open, a stop of k atr from the entry; average and atr computed from the start, equity per bar.
 */
export interface HandResult {
  trades: number;
  net: number;
}

export function handLoop(
  open: Float64Array,
  high: Float64Array,
  low: Float64Array,
  close: Float64Array,
  equity: Float64Array,
  fast: number,
  slow: number,
  period: number,
  k: number,
  units: number,
  slip: number,
): HandResult {
  const n = close.length;
  let fastSum = 0;
  let slowSum = 0;
  let atr = 0;
  let rangeSum = 0;
  let side = 0;
  let entry = 0;
  let stop = 0;
  let pending = 0;
  let pendingAtr = 0;
  let balance = 100_000;
  let trades = 0;
  let above = 0;
  for (let t = 0; t < n; t++) {
    if (pending !== 0) {
      const price = open[t] + pending * slip;
      if (side !== 0) {
        balance += side * (price - entry) * units;
        trades++;
      }
      side = pending;
      entry = price;
      stop = entry - side * k * pendingAtr;
      pending = 0;
    } else if (side !== 0 && side * (open[t] - stop) <= 0) {
      balance += side * (open[t] - side * slip - entry) * units;
      trades++;
      side = 0;
    }
    if (side === 1 && low[t] <= stop) {
      balance += (stop - slip - entry) * units;
      trades++;
      side = 0;
    } else if (side === -1 && high[t] >= stop) {
      balance += (entry - stop - slip) * units;
      trades++;
      side = 0;
    }
    const c = close[t];
    fastSum += c;
    slowSum += c;
    if (t >= fast) fastSum -= close[t - fast];
    if (t >= slow) slowSum -= close[t - slow];
    const before = t === 0 ? c : close[t - 1];
    const range = t === 0 ? high[t] - low[t] : Math.max(high[t] - low[t], Math.abs(high[t] - before), Math.abs(low[t] - before));
    if (t < period) {
      rangeSum += range;
      if (t === period - 1) atr = rangeSum / period;
    } else atr += (range - atr) / period;
    if (t >= slow - 1) {
      const difference = fastSum / fast - slowSum / slow;
      if (difference > 0) {
        if (above < 0) {
          pending = side === 1 ? 0 : 1;
          pendingAtr = atr;
        }
        above = 1;
      } else if (difference < 0) {
        if (above > 0) {
          pending = side === -1 ? 0 : -1;
          pendingAtr = atr;
        }
        above = -1;
      }
    }
    equity[t] = balance + (side === 0 ? 0 : side * (c - entry) * units);
  }
  return { trades, net: equity[n - 1] - 100_000 };
}
