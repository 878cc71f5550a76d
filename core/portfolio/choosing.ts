import { Random } from "#core/random";
import { alike, type Correlations } from "./together";
import { rowOf } from "./figures";

export const CHOICE_OBJECTIVES = ["sharpe", "profitToDrawdown", "cagr"] as const;
export type ChoiceObjective = (typeof CHOICE_OBJECTIVES)[number];
export const CHOICE_METHODS = ["greedy", "evolution"] as const;
export type ChoiceMethod = (typeof CHOICE_METHODS)[number];

/** One that may be chosen: its returns alone on the dates that the choice rests on, and where it trades. */
export interface ChoiceCandidate {
  returns: Float64Array;
  markets: readonly string[];
  sectors: readonly string[];
}

export interface ChoiceLimits {
  /** no two with a higher correlation than this */
  correlation?: number;
  /** at most so many that trade one market, one sector */
  perMarket?: number;
  perSector?: number;
  /** correlation from which on two count as nearly the same, of which only the better one competes; default 0.9 */
  same?: number;
}

export interface Choice {
  /** numbers of the candidates, ascending; empty where the limits let none be */
  chosen: number[];
  /** the objective of the chosen in equal parts; null without any */
  value: number | null;
  /** different selections that were looked at */
  looks: number;
  /** greedy: who came in turn by turn, and the objective by then */
  path: { candidate: number; value: number }[];
}

export interface ChoicePool {
  candidates: readonly ChoiceCandidate[];
  correlations: Correlations;
  times: Float64Array;
  perYear: number;
  objective: ChoiceObjective;
  limits: ChoiceLimits;
}

export const SAME = 0.9;

/** Groups of nearly the same, each with the one that stands for it: the best alone by the objective. */
export function groupsOf(pool: ChoicePool): { members: number[]; first: number }[] {
  const alone = pool.candidates.map((_, i) => valueOf(pool, [i]));
  return alike(pool.correlations, pool.limits.same ?? SAME).map((members) => ({
    members,
    first: members.reduce((best, i) => (alone[i] > alone[best] ? i : best)),
  }));
}

/** The objective of a selection whose returns are put together in equal parts every day; −∞ where it has none. */
export function valueOf({ candidates, times, perYear, objective }: ChoicePool, chosen: readonly number[]): number {
  const n = times.length;
  const equity = new Float64Array(n);
  let value = 1;
  for (let t = 0; t < n; t++) {
    let sum = 0;
    for (const i of chosen) sum += candidates[i].returns[t];
    value *= 1 + sum / chosen.length;
    equity[t] = value;
  }
  const row = rowOf(equity, times, 1, perYear);
  // who never falls has no ratio to a fall; what it earned has to speak then
  const ratio = objective === "profitToDrawdown" && row.profitToDrawdown === null ? row.netPercent : row[objective];
  return ratio ?? -Infinity;
}

/** Why a candidate can't join a selection, or null. */
export function joinFault({ candidates, correlations, limits }: ChoicePool, chosen: readonly number[], candidate: number): string | null {
  const { correlation, perMarket, perSector } = limits;
  if (correlation !== undefined && chosen.some((i) => (correlations[i][candidate] ?? 0) > correlation)) return "correlation";
  const shared = (key: "markets" | "sectors", most: number | undefined) =>
    most !== undefined && candidates[candidate][key].some((name) => chosen.filter((i) => candidates[i][key].includes(name)).length >= most);
  return shared("markets", perMarket) ? "markets" : shared("sectors", perSector) ? "sectors" : null;
}

const allowed = (pool: ChoicePool, chosen: readonly number[]): boolean =>
  chosen.every((candidate, k) => joinFault(pool, chosen.slice(0, k), candidate) === null);

/** The best `count` of the groups' first ones, by one method. The same input and seed choose the same. */
export function choose(pool: ChoicePool, count: number, method: ChoiceMethod, seed = 1): Choice {
  const field = groupsOf(pool).map(({ first }) => first);
  const seen = new Map<string, number>();
  const look = (chosen: readonly number[]): number => {
    const key = [...chosen].sort((a, b) => a - b).join(" ");
    let value = seen.get(key);
    if (value === undefined) seen.set(key, (value = valueOf(pool, chosen)));
    return value;
  };
  const found = method === "greedy" ? greedy(pool, field, count, look) : evolved(pool, field, count, look, seed);
  const chosen = [...found.chosen].sort((a, b) => a - b);
  return { chosen, value: chosen.length === 0 ? null : look(chosen), looks: seen.size, path: found.path };
}

type Found = Pick<Choice, "chosen" | "path">;
type Look = (chosen: readonly number[]) => number;

/** Takes in the one that makes the whole best, until there are enough or the limits let no one in. */
function greedy(pool: ChoicePool, field: readonly number[], count: number, look: Look): Found {
  const chosen: number[] = [];
  const path: Choice["path"] = [];
  while (chosen.length < count) {
    let best = { candidate: -1, value: -Infinity };
    for (const candidate of field) {
      if (chosen.includes(candidate) || joinFault(pool, chosen, candidate) !== null) continue;
      const value = look([...chosen, candidate]);
      if (value > best.value) best = { candidate, value };
    }
    if (best.candidate < 0) break;
    chosen.push(best.candidate);
    path.push(best);
  }
  return { chosen, path };
}

const POPULATION = 40;
const GENERATIONS = 60;
const PATIENCE = 15;
const TRIES = 200;

/** Selections of the full number that breed by drawing from two parents and change by swapping one; the best two stay. */
function evolved(pool: ChoicePool, field: readonly number[], count: number, look: Look, seed: number): Found {
  const random = new Random(seed);
  const any = <T>(list: readonly T[]): T => list[Math.floor(random.uniform() * list.length)];
  const drawn = (from: readonly number[], before: readonly number[] = []): number[] | null => {
    const chosen = [...before];
    const left = from.filter((one) => !chosen.includes(one));
    while (chosen.length < count && left.length > 0) {
      const [candidate] = left.splice(Math.floor(random.uniform() * left.length), 1);
      if (joinFault(pool, chosen, candidate) === null) chosen.push(candidate);
    }
    return chosen.length === count ? chosen : null;
  };
  let population: number[][] = [];
  for (let k = 0; k < TRIES && population.length < POPULATION; k++) {
    const one = drawn(field);
    if (one !== null) population.push(one);
  }
  // fewer than asked for may be all that the limits let in: the greedy choice is what there is then
  if (population.length === 0) return greedy(pool, field, count, look);
  const ranked = (list: number[][]) => list.map((chosen) => ({ chosen, value: look(chosen) })).sort((a, b) => b.value - a.value);
  let best = ranked(population);
  for (let generation = 0, stale = 0; generation < GENERATIONS && stale < PATIENCE; generation++) {
    const parent = () => [any(best), any(best)].sort((a, b) => b.value - a.value)[0].chosen;
    const children = best.slice(0, 2).map(({ chosen }) => chosen);
    for (let k = 0; k < POPULATION * 4 && children.length < POPULATION; k++) {
      const child = drawn([...new Set([...parent(), ...parent()])]) ?? [...parent()];
      if (random.uniform() < 0.5) {
        const kept = child.filter((one) => one !== any(child));
        const changed = drawn(field, allowed(pool, kept) ? kept : []);
        if (changed !== null) children.push(changed);
      } else children.push(child);
    }
    population = children;
    const next = ranked(population);
    stale = next[0].value > best[0].value ? 0 : stale + 1;
    best = next;
  }
  return { chosen: best[0].chosen, path: [] };
}
