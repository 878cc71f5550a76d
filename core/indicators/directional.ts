import type { Bars } from "#core/bars";
import { wilder } from "./averages";
import { atr } from "./ranges";

/** Directional movement (Wilder 1978): .plus, .minus and their smoothed difference .adx. */
export function adx(bars: Bars, n: number) {
  const { high, low, length } = bars;
  const movement = (sign: 1 | -1): Float64Array => {
    const out = new Float64Array(length).fill(NaN);
    for (let i = 1; i < length; i++) {
      const up = high[i] - high[i - 1];
      const down = low[i - 1] - low[i];
      const [own, other] = sign === 1 ? [up, down] : [down, up];
      out[i] = own > other && own > 0 ? own : 0;
    }
    return wilder(out, n);
  };
  const range = atr(bars, n);
  const share = (x: number, i: number) => (Number.isFinite(x / range[i]) ? (100 * x) / range[i] : NaN);
  const plus = movement(1).map(share);
  const minus = movement(-1).map(share);
  const spread = plus.map((x, i) => (x === 0 && minus[i] === 0 ? 0 : (100 * Math.abs(x - minus[i])) / (x + minus[i])));
  return { plus, minus, adx: wilder(spread, n) };
}

/** Bands of k average true ranges around x that only close in, and the side on which the close stands. */
export function supertrend(bars: Bars, n: number, k: number, x: Float64Array) {
  const { close, length } = bars;
  const range = atr(bars, n);
  const line = new Float64Array(length).fill(NaN);
  const direction = new Float64Array(length).fill(NaN);
  let upper = NaN;
  let lower = NaN;
  let side = 1;
  for (let i = 0; i < length; i++) {
    const reach = k * range[i];
    const [above, below] = [x[i] + reach, x[i] - reach];
    if (above !== above) {
      upper = lower = NaN;
      side = 1;
      continue;
    }
    const first = upper !== upper;
    upper = !first && close[i - 1] <= upper ? Math.min(above, upper) : above;
    lower = !first && close[i - 1] >= lower ? Math.max(below, lower) : below;
    if (!first) {
      if (side === 1 && close[i] < lower) side = -1;
      else if (side === -1 && close[i] > upper) side = 1;
    }
    line[i] = side === 1 ? lower : upper;
    direction[i] = side;
  }
  return { line, direction };
}

/** Parabolic stop and reverse (Wilder 1978). Missing on the first bar. */
export function psar(bars: Bars, step: number, max: number): Float64Array {
  const { high, low, close, length } = bars;
  const out = new Float64Array(length).fill(NaN);
  if (length < 2) return out;
  let up = close[1] >= close[0];
  let sar = up ? low[0] : high[0];
  let extreme = up ? Math.max(high[0], high[1]) : Math.min(low[0], low[1]);
  let pace = step;
  out[1] = sar;
  for (let i = 2; i < length; i++) {
    const next = sar + pace * (extreme - sar);
    if (up) {
      const stop = Math.min(next, low[i - 1], low[i - 2]);
      if (low[i] < stop) {
        sar = Math.max(extreme, high[i]);
        up = false;
        extreme = low[i];
        pace = step;
      } else {
        sar = stop;
        if (high[i] > extreme) {
          extreme = high[i];
          pace = Math.min(pace + step, max);
        }
      }
    } else {
      const stop = Math.max(next, high[i - 1], high[i - 2]);
      if (high[i] > stop) {
        sar = Math.min(extreme, low[i]);
        up = true;
        extreme = high[i];
        pace = step;
      } else {
        sar = stop;
        if (low[i] < extreme) {
          extreme = low[i];
          pace = Math.min(pace + step, max);
        }
      }
    }
    out[i] = sar;
  }
  return out;
}
