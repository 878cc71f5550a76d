import { ema, sum, wma } from "./averages";
import { change } from "./momentum";

/** Double exponential average: 2·ema − ema(ema) (Mulloy 1994). */
export function dema(x: Float64Array, n: number): Float64Array {
  const one = ema(x, n);
  const two = ema(one, n);
  return x.map((_, i) => 2 * one[i] - two[i]);
}

/** Triple exponential average: 3·ema − 3·ema(ema) + ema(ema(ema)) (Mulloy 1994). */
export function tema(x: Float64Array, n: number): Float64Array {
  const one = ema(x, n);
  const two = ema(one, n);
  const three = ema(two, n);
  return x.map((_, i) => 3 * one[i] - 3 * two[i] + three[i]);
}

/** Hull's average: wma(2·wma(x, ⌊n/2⌋) − wma(x, n), round(√n)). */
export function hull(x: Float64Array, n: number): Float64Array {
  const half = wma(x, Math.max(1, Math.floor(n / 2)));
  const whole = wma(x, n);
  return wma(
    x.map((_, i) => 2 * half[i] - whole[i]),
    Math.round(Math.sqrt(n)),
  );
}

/** Kaufman's efficiency ratio (1995): net change over n bars ÷ the sum of single changes; 0 where nothing moved. */
export function efficiency(x: Float64Array, n: number): Float64Array {
  const path = sum(change(x, 1).map(Math.abs), n);
  let still = 0;
  return path.map((length, i) => {
    still = i > 0 && x[i] === x[i - 1] ? still + 1 : 0;
    // a running sum may keep a trace of moves that have left the window
    if (length === length && still >= n) return 0;
    return length === 0 ? 0 : Math.abs(x[i] - x[i - n]) / length;
  });
}

/** Kaufman's adaptive average (1995): its pace lies between two ema's, by the efficiency ratio. Starts at x where that first exists. */
export function kama(x: Float64Array, n: number, fast: number, slow: number): Float64Array {
  const out = new Float64Array(x.length).fill(NaN);
  const ratio = efficiency(x, n);
  const [quick, calm] = [2 / (fast + 1), 2 / (slow + 1)];
  let at = NaN;
  for (let i = 0; i < x.length; i++) {
    if (ratio[i] !== ratio[i]) at = NaN;
    else if (at !== at) at = x[i];
    else at += (ratio[i] * (quick - calm) + calm) ** 2 * (x[i] - at);
    out[i] = at;
  }
  return out;
}
