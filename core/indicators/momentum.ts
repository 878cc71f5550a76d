import { ema, wilder } from "./averages";

/** x moved n bars later: the value n bars back; missing on the first n bars. */
export function back(x: Float64Array, n: number): Float64Array {
  const out = new Float64Array(x.length).fill(NaN);
  if (n < x.length) out.set(x.subarray(0, x.length - n), n);
  return out;
}

/** x − x n bars back. */
export function change(x: Float64Array, n: number): Float64Array {
  const out = new Float64Array(x.length).fill(NaN);
  for (let i = n; i < x.length; i++) out[i] = x[i] - x[i - n];
  return out;
}

/** Rate of change in percent: 100·(x / x n back − 1); missing where x n back is 0. */
export function roc(x: Float64Array, n: number): Float64Array {
  const out = new Float64Array(x.length).fill(NaN);
  for (let i = n; i < x.length; i++) {
    const value = 100 * (x[i] / x[i - n] - 1);
    if (Number.isFinite(value)) out[i] = value;
  }
  return out;
}

/** Relative strength index (Wilder 1978): 100 − 100/(1 + gains/losses), both smoothed by Wilder's average over n changes. */
export function rsi(x: Float64Array, n: number): Float64Array {
  const gains = new Float64Array(x.length).fill(NaN);
  const losses = new Float64Array(x.length).fill(NaN);
  for (let i = 1; i < x.length; i++) {
    const step = x[i] - x[i - 1];
    if (step !== step) continue;
    gains[i] = step > 0 ? step : 0;
    losses[i] = step < 0 ? -step : 0;
  }
  const gain = wilder(gains, n);
  const loss = wilder(losses, n);
  const out = new Float64Array(x.length).fill(NaN);
  for (let i = 0; i < x.length; i++) {
    if (gain[i] !== gain[i]) continue;
    if (loss[i] === 0) out[i] = gain[i] > 0 ? 100 : 50;
    else out[i] = 100 - 100 / (1 + gain[i] / loss[i]);
  }
  return out;
}

/** Moving average convergence/divergence: fast ema − slow ema, its ema, and their difference. */
export function macd(x: Float64Array, fast: number, slow: number, signal: number) {
  const quick = ema(x, fast);
  const calm = ema(x, slow);
  const line = new Float64Array(x.length);
  for (let i = 0; i < x.length; i++) line[i] = quick[i] - calm[i];
  const average = ema(line, signal);
  const histogram = new Float64Array(x.length);
  for (let i = 0; i < x.length; i++) histogram[i] = line[i] - average[i];
  return { line, signal: average, histogram };
}
