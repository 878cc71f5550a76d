/** Missing values are NaN throughout. Every function returns a new column of the input's length. */

/** Simple moving average: mean of the last n values. */
export const sma = (x: Float64Array, n: number): Float64Array => windowSum(x, n, n);

/** Sum of the last n values. */
export const sum = (x: Float64Array, n: number): Float64Array => windowSum(x, n, 1);

/** Sum of the last n values over a divisor. The running sum is made anew every 512 bars, which bounds its rounding error. */
function windowSum(x: Float64Array, n: number, divisor: number): Float64Array {
  const out = new Float64Array(x.length);
  let run = 0;
  let total = 0;
  for (let i = 0; i < x.length; i++) {
    const value = x[i];
    if (value !== value) {
      run = 0;
      total = 0;
      out[i] = NaN;
      continue;
    }
    run++;
    total += value;
    if (run < n) {
      out[i] = NaN;
      continue;
    }
    if (run > n) total -= x[i - n];
    if ((run & 511) === 0) {
      total = 0;
      for (let k = i - n + 1; k <= i; k++) total += x[k];
    }
    out[i] = total / divisor;
  }
  return out;
}

/** e = e + α(x − e), begun at the mean of the first n values; begun anew after a missing value. */
export function smoothed(x: Float64Array, n: number, alpha: number): Float64Array {
  const out = new Float64Array(x.length);
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
export const ema = (x: Float64Array, n: number): Float64Array => smoothed(x, n, 2 / (n + 1));

/** Wilder's smoothing, α = 1/n (Wilder 1978, *New Concepts in Technical Trading Systems*). */
export const wilder = (x: Float64Array, n: number): Float64Array => smoothed(x, n, 1 / n);

/** Weighted moving average with weights 1…n, the newest heaviest. */
export function wma(x: Float64Array, n: number): Float64Array {
  const out = new Float64Array(x.length).fill(NaN);
  const weight = (n * (n + 1)) / 2;
  for (let i = n - 1; i < x.length; i++) {
    let total = 0;
    for (let k = 0; k < n; k++) total += x[i - k] * (n - k);
    out[i] = total / weight;
  }
  return out;
}
