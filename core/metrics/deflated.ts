import { probabilisticSharpe } from "./equity-metrics";
import { normalQuantile } from "./statistics";

const EULER = 0.5772156649015329;

/**
 * The Sharpe ratio (per period) that the best of `trials` would reach on average without any edge, where the trials' ratios
 * have a variance (Bailey and López de Prado 2014, *The Deflated Sharpe Ratio*). Null for fewer than two trials.
 */
export function expectedBest(trials: number, variance: number): number | null {
  if (trials < 2 || !(variance >= 0)) return null;
  const of = (p: number) => normalQuantile(1 - p);
  return Math.sqrt(variance) * ((1 - EULER) * of(1 / trials) + EULER * of(1 / (trials * Math.E)));
}

/**
 * Deflated Sharpe ratio: the probability that the true ratio is above what the best of so many trials reaches without an
 * edge. `sharpe` per period over `n` returns with their skew and kurtosis; null for fewer than two trials.
 */
export function deflatedSharpe(sharpe: number, n: number, skew: number, kurtosis: number, trials: number, variance: number): number | null {
  const benchmark = expectedBest(trials, variance);
  return benchmark === null ? null : probabilisticSharpe(sharpe, n, skew, kurtosis, benchmark);
}
