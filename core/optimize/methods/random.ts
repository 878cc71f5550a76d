import { Random } from "#core/random";
import { combinationAt, trialsIn } from "../space";
import type { Rounds, Task } from "./method";

/** Uniform over the combinations, none twice: the first places of a shuffle (Fisher and Yates 1938), of which only what is touched is held. */
export function* random({ space }: Task, { trials, seed }: { trials: number; seed: number }): Rounds {
  const total = trialsIn(space);
  const generator = new Random(seed);
  const moved = new Map<number, number>();
  const at = (place: number) => moved.get(place) ?? place;
  yield Array.from({ length: Math.min(trials, total) }, (_, k) => {
    const other = k + Math.floor(generator.uniform() * (total - k));
    const picked = at(other);
    moved.set(other, at(k));
    return combinationAt(space, picked);
  });
}
