import type { DocumentProblem, Strategy } from "#core/documents";
import { compileStrategy, type Compiled } from "#core/engine";
import { constantValue, type Formula } from "#core/rules";
import { MOST_DIMENSIONS } from "./methods/sobol";
import { faultFinder, MAX_TRIALS, whereFormula, type Search } from "./plan";
import { axesOf, combinations, type Axis } from "./values";

/** All combinations of a search that are trials, by their numbers in grid order. */
export interface Space {
  axes: Axis[];
  /** combinations of the grid, those that `where` leaves out included */
  count: number;
  /** those that are trials, ascending; null where all are */
  allowed: Int32Array | null;
  compiled: Compiled;
}

export type SpaceResult = { value: Space; problems: [] } | { value: null; problems: DocumentProblem[] };

/** Lays the space of a search over a strategy and checks every combination before anything runs. */
export function laySpace(strategy: Strategy, search: Pick<Search, "vary" | "where" | "method">): SpaceResult {
  const refuse = (path: string, message: string): SpaceResult => ({ value: null, problems: [{ path, message }] });
  const compiled = compileStrategy(strategy);
  if (compiled.value === null) return { value: null, problems: compiled.problems.map((p) => ({ ...p, path: `strategy.${p.path}` })) };
  const { axes, problems } = axesOf(search.vary, compiled.value);
  if (problems.length > 0) return { value: null, problems };
  const count = combinations(axes);
  if (count > MAX_TRIALS)
    return refuse(
      "vary",
      `this makes ${count.toLocaleString("en")} combinations; at most ${MAX_TRIALS.toLocaleString("en")} are possible. Use larger steps or fewer parameters`,
    );
  if (search.method?.kind === "sobol" && axes.length > MOST_DIMENSIONS)
    return refuse("method.kind", `sobol takes at most ${MOST_DIMENSIONS} names; these are ${axes.length}. Use random instead`);
  let where: Formula | null = null;
  if (search.where !== undefined && search.where.trim() !== "") {
    const checked = whereFormula(search.where, compiled.value);
    if (checked.problems.length > 0) return { value: null, problems: checked.problems };
    where = checked.formula;
  }
  const faults = faultFinder(compiled.value);
  if (where === null && faults === null) return { value: { axes, count, allowed: null, compiled: compiled.value }, problems: [] };
  const allowed = new Int32Array(count);
  let length = 0;
  const values: Record<string, number> = { ...compiled.value.values };
  const places = new Int32Array(axes.length);
  for (const axis of axes) values[axis.name] = axis.values[0];
  for (let k = 0; k < count; k++) {
    if (where === null || constantValue(where, values) === 1) {
      const fault = faults?.(values) ?? null;
      if (fault !== null) {
        const named = axes.map(({ name }) => `${name} = ${values[name]}`);
        return refuse("vary", `with ${named.join(", ")}: ${fault}`);
      }
      allowed[length++] = k;
    }
    // on to the next combination: the last axis changes fastest
    for (let a = axes.length - 1; a >= 0; a--) {
      const axis = axes[a];
      places[a] = places[a] + 1 === axis.values.length ? 0 : places[a] + 1;
      values[axis.name] = axis.values[places[a]];
      if (places[a] !== 0) break;
    }
  }
  if (length === 0) return refuse("where", `no combination is left: “${search.where}” is no for all ${count.toLocaleString("en")}`);
  return { value: { axes, count, allowed: length === count ? null : allowed.slice(0, length), compiled: compiled.value }, problems: [] };
}

/** How many combinations of a space are trials. */
export const trialsIn = (space: Space): number => space.allowed?.length ?? space.count;

/** The combination of a place among those that are trials. */
export const combinationAt = (space: Space, place: number): number => (space.allowed === null ? place : space.allowed[place]);
