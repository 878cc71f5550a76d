import { mean, median, percentile } from "#core/metrics";
import { placesOf, type Axis } from "./values";

/** How a figure lies along one varied name, over all trials that have it. */
export interface Profile {
  name: string;
  /** one entry a value that any trial with the figure has */
  points: { value: number; count: number; low: number; middle: number; high: number }[];
  /** share of the figure's variance that its mean along this name explains, from 0 to 1; null where it does not vary */
  importance: number | null;
}

/** Median and quartiles of a figure along every varied name, and what each explains of its variance (the first-order effect). */
export function profilesOf(axes: readonly Axis[], combinations: ArrayLike<number>, figure: readonly (number | null)[]): Profile[] {
  const known: { places: number[]; value: number }[] = [];
  figure.forEach((value, i) => {
    if (value !== null) known.push({ places: placesOf(axes, combinations[i]), value });
  });
  const all = known.map(({ value }) => value);
  const centre = mean(all);
  const variance = all.reduce((sum, x) => sum + (x - centre) ** 2, 0);
  return axes.map((axis, a) => {
    const groups = axis.values.map((): number[] => []);
    for (const { places, value } of known) groups[places[a]].push(value);
    const between = groups.reduce((sum, group) => sum + (group.length === 0 ? 0 : group.length * (mean(group) - centre) ** 2), 0);
    return {
      name: axis.name,
      points: groups.flatMap((group, place) =>
        group.length === 0
          ? []
          : [
              {
                value: axis.values[place],
                count: group.length,
                low: percentile(group, 25),
                middle: median(group),
                high: percentile(group, 75),
              },
            ],
      ),
      importance: variance > 0 ? between / variance : null,
    };
  });
}
