import type { DocumentProblem } from "#core/documents";
import type { Compiled } from "#core/engine";
import type { Vary } from "./plan";

/** The values that one varied name takes, in order. */
export interface Axis {
  name: string;
  values: number[];
  /** whether neighbouring values are neighbours (ranges) or not (lists, variants) */
  steps: boolean;
}

/** How many values a range has: from + k·step for k = 0 … ⌊(to − from)/step + 1e-9⌋. */
export const rangeCount = (from: number, to: number, step: number): number => Math.floor((to - from) / step + 1e-9) + 1;

/** The axes of a plan, checked against what the strategy lets vary. */
export function axesOf(vary: readonly Vary[], compiled: Compiled): { axes: Axis[]; problems: DocumentProblem[] } {
  const problems: DocumentProblem[] = [];
  const axes: Axis[] = [];
  vary.forEach((item, i) => {
    const path = `vary[${i}]`;
    const known = compiled.variable.get(item.name);
    if (known === undefined) {
      problems.push({
        path: `${path}.name`,
        message: `“${item.name}” is neither a parameter nor a definition with variants; there are ${[...compiled.variable.keys()].join(", ") || "none"}`,
      });
      return;
    }
    if (vary.findIndex((other) => other.name === item.name) < i)
      problems.push({ path: `${path}.name`, message: `“${item.name}” is varied twice` });
    let values: number[];
    let steps = false;
    if (item.values !== undefined) {
      if (item.from !== undefined || item.to !== undefined || item.step !== undefined)
        problems.push({ path, message: "give either values or from, to and step" });
      values = item.values.map(Number);
      if (values.length === 0) problems.push({ path: `${path}.values`, message: "at least one value is needed" });
      const twice = values.find((x, k) => values.indexOf(x) < k);
      if (twice !== undefined) problems.push({ path: `${path}.values`, message: `${twice} stands twice` });
    } else {
      const { from, to, step } = item;
      if (from === undefined || to === undefined || step === undefined) {
        problems.push({ path, message: "a range needs from, to and step" });
        return;
      }
      if (!(step > 0)) problems.push({ path: `${path}.step`, message: `the step of ${item.name} must be above 0; it is ${step}` });
      else if (from > to)
        problems.push({ path: `${path}.from`, message: `the range of ${item.name} is empty: it goes from ${from} to ${to}` });
      else if (known.kind === "yesNo") problems.push({ path, message: `${item.name} is a yes/no; give its values as a list` });
      if (problems.length > 0) return;
      const count = rangeCount(from, to, step);
      if (count > 1_000_000) {
        problems.push({
          path,
          message: `the range of ${item.name} has ${count.toLocaleString("en")} values; at most 1,000,000 are possible`,
        });
        return;
      }
      values = Array.from({ length: count }, (_, k) => from + k * step);
      steps = known.kind !== "variant" && values.length > 1;
    }
    if (known.kind === "whole" || known.kind === "variant") {
      const odd = values.find((x) => !Number.isInteger(x));
      if (odd !== undefined) problems.push({ path, message: `${item.name} takes whole numbers only; ${odd} is none` });
    }
    if (known.kind === "variant") {
      const outside = values.find((x) => x < 1 || x > known.variants!);
      if (outside !== undefined) problems.push({ path, message: `${item.name} has variants 1 to ${known.variants}; ${outside} is none` });
    }
    if (known.kind === "yesNo" && values.some((x) => x !== 0 && x !== 1)) problems.push({ path, message: `${item.name} is a yes/no` });
    axes.push({ name: item.name, values, steps });
  });
  return { axes, problems };
}

/** How many combinations the axes have (a float: it may be far beyond what can be run). */
export const combinations = (axes: readonly Axis[]): number => axes.reduce((product, axis) => product * axis.values.length, 1);

/** Places on the axes of one combination in grid order: the last axis changes fastest. */
export function placesOf(axes: readonly Axis[], combination: number): number[] {
  const places = new Array<number>(axes.length);
  let rest = combination;
  for (let i = axes.length - 1; i >= 0; i--) {
    places[i] = rest % axes[i].values.length;
    rest = Math.floor(rest / axes[i].values.length);
  }
  return places;
}

/** Values by name of one combination in grid order. */
export const valuesOf = (axes: readonly Axis[], combination: number): Record<string, number> =>
  Object.fromEntries(placesOf(axes, combination).map((place, i) => [axes[i].name, axes[i].values[place]]));
