import { fitsOf } from "../fits";
import { Places, plateauOf } from "../plateau";
import { placesOf, type Axis } from "../values";
import type { Rounds, Task } from "./method";

/** Places 0, coarse, 2 · coarse … and the last of a range; all of a list. */
function coarsePlaces(axis: Axis, coarse: number): number[] {
  const last = axis.values.length - 1;
  if (!axis.steps) return axis.values.map((_, place) => place);
  const places: number[] = [];
  for (let place = 0; place < last; place += coarse) places.push(place);
  places.push(last);
  return places;
}

/**
 * First a coarse grid; then, in grid order, everything within coarse − 1 places in every range of a trial of its plateau,
 * where neighbours are one coarse place apart.
 */
export function* refine({ space, objective, limits, mark }: Task, { coarse }: { coarse: number }): Rounds {
  const { axes } = space;
  const allowed = space.allowed === null ? null : new Set(space.allowed);
  const grid = axes.map((axis) => coarsePlaces(axis, coarse));
  const coarseAxes = axes.map((axis, a): Axis => ({ ...axis, values: grid[a].map((place) => axis.values[place]) }));
  const combinationOf = (places: readonly number[]) => places.reduce((sum, place, a) => sum * axes[a].values.length + place, 0);
  const first: { coarse: number; combination: number }[] = [];
  const total = coarseAxes.reduce((product, axis) => product * axis.values.length, 1);
  for (let k = 0; k < total; k++) {
    const combination = combinationOf(placesOf(coarseAxes, k).map((place, a) => grid[a][place]));
    if (allowed === null || allowed.has(combination)) first.push({ coarse: k, combination });
  }
  const known = yield first.map(({ combination }) => combination);
  const fits = fitsOf(known.metrics.slice(0, first.length), objective, limits);
  const { trials } = plateauOf(
    new Places(
      coarseAxes,
      first.map((one) => one.coarse),
    ),
    fits,
    mark,
  );
  const near = new Set<number>();
  for (const trial of trials) {
    let around: number[] = [0];
    placesOf(axes, first[trial].combination).forEach((place, a) => {
      const { steps, values } = axes[a];
      const [low, high] = steps ? [Math.max(0, place - coarse + 1), Math.min(values.length - 1, place + coarse - 1)] : [place, place];
      around = around.flatMap((sum) => Array.from({ length: high - low + 1 }, (_, i) => sum * values.length + low + i));
    });
    for (const combination of around) if (allowed === null || allowed.has(combination)) near.add(combination);
  }
  for (const { combination } of first) near.delete(combination);
  if (near.size > 0) yield [...near].sort((a, b) => a - b);
}
