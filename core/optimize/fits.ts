import { METRIC_INDEX } from "#core/metrics";
import type { Limit, Objective } from "./plan";

/** One figure of all trials, NaN where it has no value. */
export type FigureColumn = (metric: string) => ArrayLike<number>;

/** Whether trials break a limit, one entry a trial; a figure without a value breaks every limit on it. */
function breaking(count: number, column: FigureColumn, limits: readonly Limit[]): Uint8Array {
  const out = new Uint8Array(count);
  for (const { metric, least = -Infinity, most = Infinity } of limits) {
    const values = column(metric);
    for (let i = 0; i < count; i++) if (!(values[i] >= least && values[i] <= most)) out[i] = 1;
  }
  return out;
}

/**
 * Fits of trials, NaN for those outside: trials that break a limit or lack an objective metric. With one objective metric
 * its value, turned round where less is wanted. With several the weighted mean of the percent ranks in each wanted
 * direction, (rank − 1) ÷ (m − 1) · 100 among the m trials that are not outside, ties their mean rank, 100 for m = 1.
 */
export function fitColumn(count: number, column: FigureColumn, objectives: readonly Objective[], limits: readonly Limit[]): Float64Array {
  const out = new Float64Array(count).fill(NaN);
  const outside = breaking(count, column, limits);
  const columns = objectives.map(({ metric }) => column(metric));
  if (objectives.length === 1) {
    const sign = objectives[0].want === "less" ? -1 : 1;
    for (let i = 0; i < count; i++) if (outside[i] === 0) out[i] = sign * columns[0][i];
    return out;
  }
  let inside = 0;
  const rows = new Uint32Array(count);
  for (let i = 0; i < count; i++) if (outside[i] === 0 && columns.every((values) => !Number.isNaN(values[i]))) rows[inside++] = i;
  if (inside === 0) return out;
  const total = objectives.reduce((sum, { weight }) => sum + weight, 0);
  const mean = new Float64Array(inside);
  objectives.forEach(({ want, weight }, o) => {
    const ranks = percentRanks(Float64Array.from({ length: inside }, (_, k) => (want === "less" ? -1 : 1) * columns[o][rows[k]]));
    for (let k = 0; k < inside; k++) mean[k] += weight * ranks[k];
  });
  for (let k = 0; k < inside; k++) out[rows[k]] = mean[k] / total;
  return out;
}

/** Figures of trials that are rows in the order of METRIC_KEYS, column by column. */
export function columnsOf(metrics: readonly ArrayLike<number>[]): FigureColumn {
  const held = new Map<string, Float64Array>();
  return (metric) => {
    let column = held.get(metric);
    if (column === undefined) held.set(metric, (column = Float64Array.from(metrics, (one) => one[METRIC_INDEX[metric]])));
    return column;
  };
}

/** The same fits for trials as rows, null for those outside. */
export const fitsOf = (
  metrics: readonly ArrayLike<number>[],
  objectives: readonly Objective[],
  limits: readonly Limit[],
): (number | null)[] =>
  Array.from(fitColumn(metrics.length, columnsOf(metrics), objectives, limits), (fit) => (Number.isNaN(fit) ? null : fit));

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
export function bestOf(fits: ArrayLike<number | null>): number | null {
  let best: number | null = null;
  for (let i = 0; i < fits.length; i++) {
    const fit = fits[i];
    if (fit !== null && !Number.isNaN(fit) && (best === null || fit > fits[best]!)) best = i;
  }
  return best;
}
