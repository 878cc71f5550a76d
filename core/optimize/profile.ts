import { mean, median, percentile } from "#core/metrics";
import type { Axis } from "./values";

/** How a figure lies along one varied name, over all trials that have it. */
export interface Profile {
  name: string;
  /** one entry a value that any trial with the figure has */
  points: { value: number; count: number; low: number; middle: number; high: number }[];
  /** share of the figure's variance that its mean along this name explains, from 0 to 1; null where it does not vary */
  importance: number | null;
}

/** Median and quartiles of a figure along every varied name, and what each explains of its variance (the first-order effect). */
export function profilesOf(axes: readonly Axis[], combinations: ArrayLike<number>, figure: ArrayLike<number | null>): Profile[] {
  const known: number[] = [];
  for (let i = 0; i < figure.length; i++) if (figure[i] !== null && !Number.isNaN(figure[i])) known.push(i);
  const values = Float64Array.from(known, (i) => figure[i]!);
  const centre = mean(values);
  let variance = 0;
  for (const x of values) variance += (x - centre) ** 2;
  let stride = axes.reduce((product, axis) => product * axis.values.length, 1);
  return axes.map((axis) => {
    const { length } = axis.values;
    stride /= length;
    const groups = axis.values.map((): number[] => []);
    for (let k = 0; k < known.length; k++) groups[Math.floor(combinations[known[k]] / stride) % length].push(values[k]);
    const between = groups.reduce((sum, group) => sum + (group.length === 0 ? 0 : group.length * (mean(group) - centre) ** 2), 0);
    return {
      name: axis.name,
      points: groups.flatMap((group, place) => {
        if (group.length === 0) return [];
        const sorted = Float64Array.from(group).sort();
        return [
          {
            value: axis.values[place],
            count: group.length,
            low: percentile(sorted, 25),
            middle: median(sorted),
            high: percentile(sorted, 75),
          },
        ];
      }),
      importance: variance > 0 ? between / variance : null,
    };
  });
}
