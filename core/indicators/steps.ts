import type { Bars } from "#core/bars";
import { efficiency } from "./adaptive";
import { atr } from "./ranges";

/**
 * The functions whose value rests on all bars before it, one bar at a time: for series that become known only while a run
 * goes on. Each gives what its column twin gives, bar by bar.
 */
export type Step = (x: number, y: number, row: number) => number;

/** e = e + α(x − e), begun at the mean of the first n values; begun anew after a missing value. */
export function smoothedStep(n: number, alpha: number): (x: number) => number {
  let run = 0;
  let total = 0;
  let e = 0;
  return (x) => {
    if (x !== x) {
      run = total = 0;
      return NaN;
    }
    run++;
    if (run < n) {
      total += x;
      return NaN;
    }
    e = run === n ? (total + x) / n : e + alpha * (x - e);
    return e;
  };
}

export const emaStep = (n: number) => smoothedStep(n, 2 / (n + 1));
export const wilderStep = (n: number) => smoothedStep(n, 1 / n);

export function demaStep(n: number): Step {
  const [one, two] = [emaStep(n), emaStep(n)];
  return (x) => {
    const a = one(x);
    return 2 * a - two(a);
  };
}

export function temaStep(n: number): Step {
  const [one, two, three] = [emaStep(n), emaStep(n), emaStep(n)];
  return (x) => {
    const a = one(x);
    const b = two(a);
    return 3 * a - 3 * b + three(b);
  };
}

export function kamaStep(n: number, fast: number, slow: number): Step {
  const window = new Float64Array(n + 1).fill(NaN);
  const [quick, calm] = [2 / (fast + 1), 2 / (slow + 1)];
  let at = NaN;
  return (x) => {
    window.copyWithin(0, 1);
    window[n] = x;
    const ratio = efficiency(window, n)[n];
    if (ratio !== ratio) at = NaN;
    else if (at !== at) at = x;
    else at += (ratio * (quick - calm) + calm) ** 2 * (x - at);
    return at;
  };
}

export function rsiStep(n: number): Step {
  const [gains, losses] = [wilderStep(n), wilderStep(n)];
  let before = NaN;
  return (x) => {
    const move = x - before;
    before = x;
    const gain = gains(move !== move ? NaN : move > 0 ? move : 0);
    const loss = losses(move !== move ? NaN : move < 0 ? -move : 0);
    if (gain !== gain) return NaN;
    if (loss === 0) return gain > 0 ? 100 : 50;
    return 100 - 100 / (1 + gain / loss);
  };
}

export function macdStep(fast: number, slow: number, signal: number, part: string): Step {
  const [quick, calm, average] = [emaStep(fast), emaStep(slow), emaStep(signal)];
  return (x) => {
    const line = quick(x) - calm(x);
    const smooth = average(line);
    return part === "line" ? line : part === "signal" ? smooth : line - smooth;
  };
}

/** Highest (sign 1) or lowest (sign −1) value so far. */
export function everStep(sign: 1 | -1): Step {
  let best = NaN;
  return (x) => {
    if (x === x && (best !== best || sign * x > sign * best)) best = x;
    return best;
  };
}

export function ageOfStep(): Step {
  let age = NaN;
  return (c) => (age = c === 1 ? 0 : age + 1);
}

export function atLastStep(): Step {
  let last = NaN;
  return (c, x) => {
    if (c === 1) last = x;
    return last;
  };
}

export function cumulativeStep(): Step {
  let total = 0;
  return (x) => (total += x === x ? x : 0);
}

export function supertrendStep(bars: Bars, n: number, k: number, part: string): Step {
  const range = atr(bars, n);
  const { close } = bars;
  let upper = NaN;
  let lower = NaN;
  let side = 1;
  return (x, _y, row) => {
    const reach = k * range[row];
    const [above, below] = [x + reach, x - reach];
    if (above !== above) {
      upper = lower = NaN;
      side = 1;
      return NaN;
    }
    const first = upper !== upper;
    upper = !first && close[row - 1] <= upper ? Math.min(above, upper) : above;
    lower = !first && close[row - 1] >= lower ? Math.max(below, lower) : below;
    if (!first) {
      if (side === 1 && close[row] < lower) side = -1;
      else if (side === -1 && close[row] > upper) side = 1;
    }
    return part === "direction" ? side : side === 1 ? lower : upper;
  };
}
