import { correlation } from "#core/metrics";
import { addedReturns, type PeriodChanges } from "./series";

/** Correlations by pairs; null where one of two does not vary. */
export type Correlations = (number | null)[][];

/** Correlations of series of equal length. */
export const correlations = (series: readonly Float64Array[]): Correlations =>
  series.map((a) =>
    series.map((b) => {
      const value = correlation(a, b);
      return Number.isFinite(value) ? value : null;
    }),
  );

/** How members go together when it goes badly. */
export interface BadDays {
  /** periods that count as bad: the tenth with the account's lowest returns */
  count: number;
  correlation: Correlations;
  /** of a member's own worst tenth, the share that is among another's worst tenth, too; a tenth by chance alone */
  shared: (number | null)[][];
}

/** Fewer periods have no tenth that says anything. */
export const LEAST_PERIODS = 50;

/** Correlations in the worst tenth of an account's periods; null for fewer than 50 periods or where the account was lost. */
export function badDays(changes: PeriodChanges): BadDays | null {
  const { total, before, members } = changes;
  const n = total.length;
  const added = addedReturns(changes);
  if (n < LEAST_PERIODS || added === null) return null;
  const count = Math.floor(n / 10);
  const worst = lowest(
    total.map((change, k) => change / before[k]),
    count,
  );
  const own = added.map((returns) => (returns.some((x) => x < 0) ? new Set(lowest(returns, count)) : null));
  return {
    count,
    correlation: correlations(members.map((series) => Float64Array.from(worst, (k) => series[k]))),
    shared: own.map((a) => own.map((b) => (a === null || b === null ? null : [...a].filter((k) => b.has(k)).length / count))),
  };
}

/** Places of the lowest values; ties: the earlier ones. */
function lowest(values: Float64Array, count: number): number[] {
  return Array.from(values, (_, k) => k)
    .sort((a, b) => values[a] - values[b] || a - b)
    .slice(0, count);
}

/**
 * An order in which what goes together stands together: clusters are joined by average linkage of 1 − correlation (Sokal
 * and Michener 1958), each join turned so that its most alike ends meet. A missing correlation counts as 0.
 */
export function clusterOrder(values: Correlations): number[] {
  const distance = (i: number, j: number) => 1 - (values[i][j] ?? 0);
  let clusters = values.map((_, i) => [i]);
  const between = (a: readonly number[], b: readonly number[]) => {
    let sum = 0;
    for (const i of a) for (const j of b) sum += distance(i, j);
    return sum / (a.length * b.length);
  };
  while (clusters.length > 1) {
    let best = { a: 0, b: 1, apart: Infinity };
    for (let a = 0; a < clusters.length; a++)
      for (let b = a + 1; b < clusters.length; b++) {
        const apart = between(clusters[a], clusters[b]);
        if (apart < best.apart - 1e-12) best = { a, b, apart };
      }
    const [x, y] = [clusters[best.a], clusters[best.b]];
    const turned = (list: readonly number[]) => [...list].reverse();
    const joins = [
      [x, y],
      [x, turned(y)],
      [turned(x), y],
      [turned(x), turned(y)],
    ].sort((p, q) => distance(p[0][p[0].length - 1], p[1][0]) - distance(q[0][q[0].length - 1], q[1][0]));
    clusters = clusters.filter((_, k) => k !== best.a && k !== best.b);
    clusters.splice(best.a, 0, joins[0].flat());
  }
  return clusters[0] ?? [];
}

/** Groups of what is nearly the same: linked by correlations of at least `least`. Each in order; groups by their first. */
export function alike(values: Correlations, least: number): number[][] {
  const group = values.map((_, i) => i);
  for (let i = 0; i < values.length; i++)
    for (let j = 0; j < i; j++)
      if ((values[i][j] ?? -1) >= least && group[i] !== group[j]) {
        const [from, to] = [Math.max(group[i], group[j]), Math.min(group[i], group[j])];
        group.forEach((own, k) => (group[k] = own === from ? to : own));
      }
  return [...new Set(group)].map((own) => group.flatMap((other, k) => (other === own ? [k] : [])));
}
