import { placeMoments } from "./sliding";

/** Missing values are NaN throughout. Every function returns a new column of the input's length, or fills the one given. */

/** Simple moving average: mean of the last n values. */
export const sma = (x: Float64Array, n: number, out?: Float64Array): Float64Array => windowSum(x, n, n, out);

/** Sum of the last n values. */
export const sum = (x: Float64Array, n: number): Float64Array => windowSum(x, n, 1);

/** Bars between two fresh sums: often enough that rounding can't build up, seldom enough to cost nothing. */
const FRESH = 512;

/** Sum of the last n values over a divisor. The running sum is made anew every 512 bars (or n, if more), which bounds its rounding error. */
function windowSum(x: Float64Array, n: number, divisor: number, out: Float64Array = new Float64Array(x.length)): Float64Array {
  const { length } = x;
  let i = 0;
  while (i < length) {
    const start = i;
    while (i < length && i < start + n && x[i] === x[i]) i++;
    if (i < start + n) {
      const missing = i < length ? i + 1 : i;
      out.fill(NaN, start, missing);
      i = missing;
      continue;
    }
    out.fill(NaN, start, i - 1);
    i--;
    let total = NaN;
    for (; i < length && x[i] === x[i];) {
      total = 0;
      for (let k = i - n + 1; k <= i; k++) total += x[k];
      out[i++] = total / divisor;
      const stop = Math.min(length, i + Math.max(FRESH, n) - 1);
      for (; i < stop; i++) {
        total += x[i] - x[i - n];
        if (total !== total) break;
        out[i] = total / divisor;
      }
    }
  }
  return out;
}

/** e = e + α(x − e), begun at the mean of the first n values; begun anew after a missing value. */
export function smoothed(x: Float64Array, n: number, alpha: number, out: Float64Array = new Float64Array(x.length)): Float64Array {
  let run = 0;
  let total = 0;
  let e = 0;
  for (let i = 0; i < x.length; i++) {
    const value = x[i];
    if (value !== value) {
      run = 0;
      total = 0;
      out[i] = NaN;
      continue;
    }
    run++;
    if (run < n) {
      total += value;
      out[i] = NaN;
      continue;
    }
    e = run === n ? (total + value) / n : e + alpha * (value - e);
    out[i] = e;
  }
  return out;
}

/** Exponential moving average, α = 2/(n + 1). */
export const ema = (x: Float64Array, n: number, out?: Float64Array): Float64Array => smoothed(x, n, 2 / (n + 1), out);

/** Wilder's smoothing, α = 1/n (Wilder 1978, *New Concepts in Technical Trading Systems*). */
export const wilder = (x: Float64Array, n: number, out?: Float64Array): Float64Array => smoothed(x, n, 1 / n, out);

/** Weighted moving average with weights 1…n, the newest heaviest. */
export function wma(x: Float64Array, n: number): Float64Array {
  const out = new Float64Array(x.length).fill(NaN);
  const weight = (n * (n + 1)) / 2;
  // Σ(k + 1)·x over the window = its moment about the middle place + the mean's share of all weights
  placeMoments(x, n, (i, mean, together) => {
    out[i] = (together + mean * weight) / weight;
  });
  return out;
}
