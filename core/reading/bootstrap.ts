import { Random } from "#core/random";
import { percentile } from "#core/metrics";

/** What nine of ten resamplings lie between, and their middle; null where a figure can't be had. */
export interface Interval {
  low: number;
  middle: number;
  high: number;
}

export interface Resampled {
  /** periods in a block */
  block: number;
  samples: number;
  netPercent: Interval;
  cagr: Interval | null;
  sharpe: Interval | null;
  maxDrawdownPercent: Interval;
  /** share of the resamplings that lost money */
  lost: number;
}

/** Fewer returns are no sample to draw from. */
export const LEAST_RETURNS = 60;

/**
 * Resamples a series of returns in blocks that run on at its end (circular block bootstrap: Politis and Romano 1992), each
 * of about the cube root of the number of returns (Hall, Horowitz and Jing 1995), so that what hangs together for a while
 * stays together. `perYear` periods make a year. Null for fewer than 60 returns.
 */
export function resampled(returns: ArrayLike<number>, perYear: number, seed: number, samples = 2000): Resampled | null {
  const n = returns.length;
  if (n < LEAST_RETURNS) return null;
  const block = Math.max(1, Math.round(n ** (1 / 3)));
  const random = new Random(seed);
  const net = new Float64Array(samples);
  const growth: number[] = [];
  const sharpe: number[] = [];
  const fall = new Float64Array(samples);
  let lost = 0;
  for (let k = 0; k < samples; k++) {
    let value = 1;
    let peak = 1;
    let deepest = 0;
    let sum = 0;
    let squares = 0;
    for (let i = 0; i < n;) {
      let at = Math.floor(random.uniform() * n);
      for (let j = 0; j < block && i < n; j++, i++) {
        const r = returns[at];
        if (++at === n) at = 0;
        sum += r;
        squares += r * r;
        value *= 1 + r;
        if (value > peak) peak = value;
        else if (peak - value > deepest * peak) deepest = (peak - value) / peak;
      }
    }
    net[k] = 100 * (value - 1);
    if (value < 1) lost++;
    fall[k] = 100 * deepest;
    if (value > 0) growth.push(100 * (value ** (perYear / n) - 1));
    const variance = (squares - (sum * sum) / n) / (n - 1);
    if (variance > 0) sharpe.push((sum / n / Math.sqrt(variance)) * Math.sqrt(perYear));
  }
  return {
    block,
    samples,
    netPercent: interval(net),
    cagr: growth.length === samples ? interval(growth) : null,
    sharpe: sharpe.length === samples ? interval(sharpe) : null,
    maxDrawdownPercent: interval(fall),
    lost: lost / samples,
  };
}

const interval = (values: ArrayLike<number>): Interval => ({
  low: percentile(values, 5),
  middle: percentile(values, 50),
  high: percentile(values, 95),
});
