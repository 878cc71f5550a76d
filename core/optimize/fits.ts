import { METRIC_INDEX } from "#core/metrics";
import type { Limit, Objective } from "./plan";
import { breaksLimit, fitOf } from "./trials";

/**
 * Fits of trials. With one objective metric its value, turned round where less is wanted. With several the weighted mean of
 * the percent ranks in each wanted direction, (rank − 1) ÷ (m − 1) · 100 among the m trials that are not outside, ties their
 * mean rank, 100 for m = 1. Null: outside, which is a trial that breaks a limit or lacks an objective metric.
 */
export function fitsOf(
  metrics: readonly ArrayLike<number>[],
  objectives: readonly Objective[],
  limits: readonly Limit[],
): (number | null)[] {
  if (objectives.length === 1) return metrics.map((one) => fitOf(one, objectives[0], limits));
  const columns = objectives.map(({ metric }) => METRIC_INDEX[metric]);
  const inside: number[] = [];
  metrics.forEach((one, i) => {
    if (!columns.some((column) => Number.isNaN(one[column])) && !breaksLimit(one, limits)) inside.push(i);
  });
  const fits = new Array<number | null>(metrics.length).fill(null);
  if (inside.length === 0) return fits;
  const total = objectives.reduce((sum, { weight }) => sum + weight, 0);
  const mean = new Float64Array(inside.length);
  objectives.forEach(({ want, weight }, o) => {
    const ranks = percentRanks(Float64Array.from(inside, (i) => (want === "less" ? -1 : 1) * metrics[i][columns[o]]));
    for (let k = 0; k < mean.length; k++) mean[k] += weight * ranks[k];
  });
  inside.forEach((i, k) => (fits[i] = mean[k] / total));
  return fits;
}

/** Ascending percent ranks from 0 to 100, ties their mean; 100 for a single value. */
export function percentRanks(values: Float64Array): Float64Array {
  const m = values.length;
  const out = new Float64Array(m).fill(100);
  if (m === 1) return out;
  const order = Uint32Array.from(values, (_, i) => i).sort((a, b) => values[a] - values[b]);
  for (let from = 0; from < m;) {
    let to = from;
    while (to + 1 < m && values[order[to + 1]] === values[order[from]]) to++;
    const rank = (from + to) / 2;
    for (let k = from; k <= to; k++) out[order[k]] = (100 * rank) / (m - 1);
    from = to + 1;
  }
  return out;
}

/** The trial with the highest fit, ties to the lower number; null where all are outside. */
export function bestOf(fits: readonly (number | null)[]): number | null {
  let best: number | null = null;
  fits.forEach((fit, i) => {
    if (fit !== null && (best === null || fit > fits[best]!)) best = i;
  });
  return best;
}
