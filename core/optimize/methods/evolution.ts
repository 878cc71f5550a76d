import { Random } from "#core/random";
import { bestOf, fitsOf } from "../fits";
import { combinationAt, trialsIn } from "../space";
import { placesOf, type Axis } from "../values";
import type { Known, Method, Rounds, Task } from "./method";

type Options = Extract<Method, { kind: "evolution" }>;

/** Individuals that meet in a contest for becoming a parent. */
const CONTEST = 3;
/** Generations between which islands send their best to the next one. */
const SAILING = 5;
/** Times that a child is made anew where it would be no trial. */
const ATTEMPTS = 20;

/**
 * A genetic search over places on the axes: parents by contests of three, children take each place from one parent or the
 * other, each place then mutates with a probability: most often a few steps along its range (fewer as time goes by), else to
 * any place. The elite of an island lives on; every five generations its best goes to the next island. What was computed
 * before is known and costs no trial. It ends early after `patience` generations without a better best.
 */
export function* evolution({ space, objective, limits }: Task, options: Options): Rounds {
  const { axes } = space;
  const { population, generations, elite, mutation, islands, seed, patience } = options;
  const allowed = space.allowed === null ? null : new Set(space.allowed);
  const total = trialsIn(space);
  const random = Array.from({ length: islands }, (_, island) => new Random(seed, island));
  const sizes = Array.from({ length: islands }, (_, k) => Math.floor(population / islands) + (k < population % islands ? 1 : 0));
  const numbers = new Map<number, number>();
  const combinationOf = (places: readonly number[]) => places.reduce((sum, place, a) => sum * axes[a].values.length + place, 0);
  const anyone = (generator: Random) => combinationAt(space, Math.floor(generator.uniform() * total));

  let living: number[][] = sizes.map((size, island) => {
    const drawn = new Set<number>();
    for (let tries = 0; drawn.size < Math.min(size, total) && tries < 50 * size; tries++) drawn.add(anyone(random[island]));
    return [...drawn];
  });
  let latest: Known | null = null;
  let best = -Infinity;
  let since = 0;
  for (let generation = 0; generation < generations; generation++) {
    const fresh = [...new Set(living.flat())].filter((combination) => !numbers.has(combination));
    for (const combination of fresh) numbers.set(combination, numbers.size);
    if (fresh.length > 0 || generation === 0) latest = yield fresh;
    const fits = fitsOf(latest!.metrics, objective, limits);
    const fitOf = (combination: number) => fits[numbers.get(combination)!] ?? -Infinity;
    const top = bestOf(fits);
    // with several objectives ranks move with every trial, so that only a change of the best counts as one
    const value = top === null ? -Infinity : objective.length === 1 ? fits[top]! : top;
    if (objective.length === 1 ? value > best : value !== best) {
      best = value;
      since = 0;
    } else if (++since >= patience) return;
    const ranked = living.map((island) => [...island].sort((a, b) => fitOf(b) - fitOf(a) || a - b));
    living = ranked.map((island, k) => {
      const generator = random[k];
      const next = island.slice(0, Math.min(elite, island.length));
      if (islands > 1 && generation % SAILING === SAILING - 1) next.push(ranked[(k + islands - 1) % islands][0]);
      const taken = new Set(next);
      const parent = () => {
        let chosen = island.length - 1;
        for (let c = 0; c < CONTEST; c++) chosen = Math.min(chosen, Math.floor(generator.uniform() * island.length));
        return placesOf(axes, island[chosen]);
      };
      while (next.length < sizes[k]) {
        let child = -1;
        for (let tries = 0; tries < ATTEMPTS; tries++) {
          const [a, b] = [parent(), parent()];
          const places = a.map((place, axis) =>
            mutated(generator.uniform() < 0.5 ? place : b[axis], axes[axis], mutation, generation / generations, generator),
          );
          const combination = combinationOf(places);
          if ((allowed !== null && !allowed.has(combination)) || taken.has(combination)) continue;
          child = combination;
          // one that nobody has seen is worth a few more tries
          if (!numbers.has(combination) || tries > ATTEMPTS / 2) break;
        }
        if (child < 0) child = anyone(generator);
        taken.add(child);
        next.push(child);
      }
      return next;
    });
  }
}

function mutated(place: number, axis: Axis, mutation: number, age: number, generator: Random): number {
  const { length } = axis.values;
  if (length === 1 || generator.uniform() >= mutation) return place;
  if (!axis.steps || generator.uniform() < 0.2) return Math.floor(generator.uniform() * length);
  const reach = Math.max(1, (length - 1) * 0.15 * (1 - age));
  const by = Math.round(generator.normal() * reach) || (generator.uniform() < 0.5 ? -1 : 1);
  return Math.min(length - 1, Math.max(0, place + by));
}
