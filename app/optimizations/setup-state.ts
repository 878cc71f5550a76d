import type { Parameter } from "#core/documents";
import { rangeCount } from "#core/optimize";

/** One parameter in the set-up of an optimization, as typed. */
export interface AxisState {
  name: string;
  varied: boolean;
  from: string;
  to: string;
  step: string;
}

/** Where a parameter's range starts from: its own min, max and step; else around its value. */
export function startAxis(parameter: Parameter, varied: boolean): AxisState {
  const value = Number(parameter.value);
  const step =
    parameter.step ?? (parameter.kind === "whole" ? Math.max(1, Math.round(value / 10)) : Number((value / 10).toPrecision(2)) || 0.1);
  return {
    name: parameter.name,
    varied,
    from: String(parameter.min ?? value),
    to: String(parameter.max ?? value + 10 * step),
    step: String(step),
  };
}

/** Number of values of an axis, or null where its figures make no range. */
export function axisCount(axis: AxisState): number | null {
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
