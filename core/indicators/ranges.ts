import type { Bars } from "#core/bars";
import { sma } from "./averages";
import { highest, lowest, stdev } from "./windows";

/**
 * True range (Wilder 1978): max(h − l, |h − c[t−1]|, |l − c[t−1]|), which is the span of the bar and the close before it;
 * h − l on the first bar.
 */
export function trueRange(bars: Bars): Float64Array {
  const { high, low, close, length } = bars;
  const out = new Float64Array(length);
  if (length > 0) out[0] = high[0] - low[0];
  for (let i = 1; i < length; i++) {
    const before = close[i - 1];
    out[i] = Math.max(high[i], before) - Math.min(low[i], before);
  }
  return out;
}

/** Average true range: Wilder's average of the true range, in one pass: the column of ranges is seldom wanted by itself. */
export function atr(bars: Bars, n: number, out: Float64Array = new Float64Array(bars.length)): Float64Array {
  const { high, low, close, length } = bars;
  const alpha = 1 / n;
  let total = 0;
  let e = 0;
  let before = length > 0 ? (high[0] + low[0]) / 2 : NaN;
  for (let i = 0; i < length; i++) {
    // the close before most often lies within the bar, so that neither branch surprises
    let top = high[i];
    let bottom = low[i];
    if (before > top) top = before;
    else if (before < bottom) bottom = before;
    const range = top - bottom;
    before = close[i];
    if (i >= n) e += alpha * (range - e);
    else {
      total += range;
      e = total / n;
      if (i < n - 1) {
        out[i] = NaN;
        continue;
      }
    }
    out[i] = e;
  }
  return out;
}

/** Bollinger bands: sma ± k population standard deviations; width = (upper − lower)/middle, percentB = (x − lower)/(upper − lower). */
export function bollinger(x: Float64Array, n: number, k: number) {
  const middle = sma(x, n);
  const spread = stdev(x, n);
  const make = () => new Float64Array(x.length).fill(NaN);
  const upper = make();
  const lower = make();
  const width = make();
  const percentB = make();
  for (let i = 0; i < x.length; i++) {
    upper[i] = middle[i] + k * spread[i];
    lower[i] = middle[i] - k * spread[i];
    const range = upper[i] - lower[i];
    if (Number.isFinite(range / middle[i])) width[i] = range / middle[i];
    if (Number.isFinite((x[i] - lower[i]) / range)) percentB[i] = (x[i] - lower[i]) / range;
  }
  return { middle, upper, lower, width, percentB };
}

/** Donchian channel: highest high and lowest low of the last n bars, this one included, and their middle. */
export function donchian(bars: Bars, n: number) {
  const upper = highest(bars.high, n);
  const lower = lowest(bars.low, n);
  const middle = new Float64Array(bars.length);
  for (let i = 0; i < bars.length; i++) middle[i] = (upper[i] + lower[i]) / 2;
  return { upper, lower, middle };
}
