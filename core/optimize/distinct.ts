import type { Axis } from "./values";

/** Trials as combinations of axes, and the values of the names that do not vary. */
export interface Tried {
  axes: readonly Axis[];
  combinations: ArrayLike<number>;
  /** every parameter and variant of the strategy, as it stands */
  values: Readonly<Record<string, number>>;
}

/** How many trials have the same values as one of earlier searches over the same rules and data. */
export function repeatedOf(own: Tried, earlier: readonly Tried[]): number {
  const seen = new Uint8Array(own.axes.reduce((product, axis) => product * axis.values.length, 1));
  for (const other of earlier) mark(own, other, seen);
  let count = 0;
  for (let i = 0; i < own.combinations.length; i++) count += seen[own.combinations[i]];
  return count;
}

/** Marks the combinations of `own` that `other` has tried. */
function mark(own: Tried, other: Tried, seen: Uint8Array): void {
  const varied = new Set([...own.axes, ...other.axes].map(({ name }) => name));
  if (Object.keys(own.values).some((name) => !varied.has(name) && own.values[name] !== other.values[name])) return;
  const strides = own.axes.map((_, a) => own.axes.slice(a + 1).reduce((product, axis) => product * axis.values.length, 1));
  // what a place on one of the other's axes adds to a combination of one's own; −1: no value of one's own
  const adds: Int32Array[] = other.axes.map(({ name, values }) => {
    const a = own.axes.findIndex((axis) => axis.name === name);
    return Int32Array.from(values, (value) => {
      if (a < 0) return value === own.values[name] ? 0 : -1;
      const place = own.axes[a].values.indexOf(value);
      return place < 0 ? -1 : place * strides[a];
    });
  });
  let fixed = 0;
  for (const [a, { name, values }] of own.axes.entries()) {
    if (other.axes.some((axis) => axis.name === name)) continue;
    const place = values.indexOf(other.values[name]);
    if (place < 0) return;
    fixed += place * strides[a];
  }
  for (let i = 0; i < other.combinations.length; i++) {
    let rest = other.combinations[i];
    let at = fixed;
    for (let b = other.axes.length - 1; b >= 0 && at >= 0; b--) {
      const { length } = other.axes[b].values;
      const add = adds[b][rest % length];
      rest = Math.floor(rest / length);
      at = add < 0 ? -1 : at + add;
    }
    if (at >= 0) seen[at] = 1;
  }
}
