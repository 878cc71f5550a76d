import { correlation } from "#core/metrics";
import { percentRanks } from "./fits";
import type { TrialTable } from "./trial-table";

/** Where a trial of one search stands among those of another. */
export interface StandsAt {
  /** its number there */
  number: number;
  /** from 1 for the best; null where it is outside there */
  rank: number | null;
  of: number;
}

/** Two searches over the same names, trial by trial. */
export interface Overlap {
  /** rows of trials that both have with the same values */
  rows: [first: number, second: number][];
  /** rank correlation of their fits among those inside in both (Spearman 1904); null for fewer than three, or where all are alike */
  correlation: number | null;
  /** where the best of each stands in the other; null where the other has no such trial */
  bestOfFirst: StandsAt | null;
  bestOfSecond: StandsAt | null;
}

/** What two tables of trials have in common; null where they vary different names. */
export function overlapOf(first: TrialTable, second: TrialTable): Overlap | null {
  const names = first.axes.map(({ name }) => name);
  if (names.length !== second.axes.length || second.axes.some(({ name }) => !names.includes(name))) return null;
  const strides = second.axes.map((_, a) => second.axes.slice(a + 1).reduce((product, axis) => product * axis.values.length, 1));
  // what a place on one of the first's axes adds to a combination of the second; −1: no value there
  const adds = first.axes.map(({ name, values }) => {
    const a = second.axes.findIndex((axis) => axis.name === name);
    return values.map((value) => {
      const place = second.axes[a].values.indexOf(value);
      return place < 0 ? -1 : place * strides[a];
    });
  });
  const there = new Map<number, number>();
  for (let row = 0; row < second.count; row++) there.set(second.combinations[row], row);
  const rows: [number, number][] = [];
  for (let row = 0; row < first.count; row++) {
    let rest = first.combinations[row];
    let at = 0;
    for (let a = first.axes.length - 1; a >= 0 && at >= 0; a--) {
      const { length } = first.axes[a].values;
      const add = adds[a][rest % length];
      rest = Math.floor(rest / length);
      at = add < 0 ? -1 : at + add;
    }
    const other = at < 0 ? undefined : there.get(at);
    if (other !== undefined) rows.push([row, other]);
  }
  const both = rows.filter(([a, b]) => !Number.isNaN(first.fit[a]) && !Number.isNaN(second.fit[b]));
  const ranks = ([0, 1] as const).map((k) => percentRanks(Float64Array.from(both, (pair) => (k === 0 ? first : second).fit[pair[k]])));
  const agree = both.length < 3 ? NaN : correlation(ranks[0], ranks[1]);
  const stands = (own: TrialTable, other: TrialTable, k: 0 | 1): StandsAt | null => {
    const best = own.best();
    const pair = best === null ? undefined : rows.find((one) => one[k] === best);
    return pair === undefined ? null : standing(other, pair[k === 0 ? 1 : 0]);
  };
  return {
    rows,
    correlation: Number.isNaN(agree) ? null : agree,
    bestOfFirst: stands(first, second, 0),
    bestOfSecond: stands(second, first, 1),
  };
}

function standing(table: TrialTable, row: number): StandsAt {
  const own = table.fit[row];
  let [better, inside] = [0, 0];
  for (const fit of table.fit) {
    if (Number.isNaN(fit)) continue;
    inside++;
    if (fit > own) better++;
  }
  return { number: table.numbers[row], rank: Number.isNaN(own) ? null : better + 1, of: inside };
}
