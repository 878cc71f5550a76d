import type { Parameter } from "#core/documents";
import { rangeCount, type Method, type Objective, type Search } from "#core/optimize";
import type { Bound } from "./limit-form";
import { START_METHOD, type MethodState } from "./method-state";
import type { Wish } from "./objective-form";

/** One parameter in the set-up of an optimization, as typed. */
export interface AxisState {
  name: string;
  varied: boolean;
  from: string;
  to: string;
  step: string;
  /** values one by one, in the place of a range; null: a range. A yes/no has nothing else */
  list: string | null;
  kind: Parameter["kind"];
}

/** Where a parameter's range starts from: its own min, max and step; else around its value. */
export function startAxis(parameter: Parameter, varied: boolean): AxisState {
  if (parameter.kind === "yesNo") return { name: parameter.name, varied, from: "", to: "", step: "", list: "no, yes", kind: "yesNo" };
  const value = Number(parameter.value);
  const step =
    parameter.step ?? (parameter.kind === "whole" ? Math.max(1, Math.round(value / 10)) : Number((value / 10).toPrecision(2)) || 0.1);
  return {
    name: parameter.name,
    varied,
    from: String(parameter.min ?? value),
    to: String(parameter.max ?? value + 10 * step),
    step: String(step),
    list: null,
    kind: parameter.kind,
  };
}

/** Values that stand in a list, parted by commas, semicolons or blanks; null where one is none. */
export function listValues({ list, kind }: AxisState): (number | boolean)[] | null {
  const words = (list ?? "").split(/[\s,;]+/).filter((word) => word !== "");
  const values = words.map((word): number | boolean => {
    if (kind === "yesNo") return word === "yes" ? true : word === "no" ? false : NaN;
    return Number(word);
  });
  return words.length === 0 || values.some((value) => Number.isNaN(value)) ? null : values;
}

/** An axis as a document has it. */
export function varyOf(axis: AxisState): Record<string, unknown> {
  const number = (text: string) => Number(text.replace(",", "."));
  return axis.list === null
    ? { name: axis.name, from: number(axis.from), to: number(axis.to), step: number(axis.step) }
    : { name: axis.name, values: listValues(axis) };
}

/** Number of values of an axis, or null where its figures make no range and its words no list. */
export function axisCount(axis: AxisState): number | null {
  if (axis.list !== null) return listValues(axis)?.length ?? null;
  const [from, to, step] = [axis.from, axis.to, axis.step].map((text) => (text.trim() === "" ? NaN : Number(text.replace(",", "."))));
  if (![from, to, step].every(Number.isFinite) || step <= 0 || from > to) return null;
  return rangeCount(from, to, step);
}

/** Number of combinations of all varied axes, or null. */
export function trialCount(axes: readonly AxisState[]): number | null {
  let total = 1;
  for (const axis of axes.filter((a) => a.varied)) {
    const count = axisCount(axis);
    if (count === null) return null;
    total *= count;
  }
  return axes.some((a) => a.varied) ? total : null;
}

/** An axis as a stored search has it. */
export function axisOf(parameter: Parameter, search: Pick<Search, "vary">): AxisState {
  const item = search.vary.find(({ name }) => name === parameter.name);
  const start = startAxis(parameter, item !== undefined);
  if (item === undefined) return start;
  if (item.values === undefined) return { ...start, from: String(item.from), to: String(item.to), step: String(item.step), list: null };
  const word = (value: number | boolean) => (parameter.kind === "yesNo" ? (Number(value) === 1 ? "yes" : "no") : String(value));
  return { ...start, list: item.values.map(word).join(parameter.kind === "yesNo" ? ", " : " ") };
}

/** Objectives as the form has them. */
export const wishesOf = (objective: readonly Objective[]): Wish[] =>
  objective.map(({ metric, weight }) => ({ metric, weight: String(weight) }));

/** Limits as the form has them; a document may hold null for what is left out. */
export const boundsOf = (limits: readonly { metric: string; least?: number | null; most?: number | null }[]): Bound[] =>
  limits.map(({ metric, least, most }) => ({ metric, least: String(least ?? ""), most: String(most ?? "") }));

/** A method as the form has it. */
export function methodStateOf(method: Method | undefined): MethodState {
  const { kind = "grid", ...numbers } = method ?? {};
  const known = Object.entries(numbers).filter(([key]) => key in START_METHOD);
  return { ...START_METHOD, ...Object.fromEntries(known.map(([key, value]) => [key, String(value)])), kind };
}
