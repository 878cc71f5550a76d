import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { repeatedOf, valuesOf, type Axis, type Tried } from ".";

const axis = (name: string, values: number[]): Axis => ({ name, values, steps: true });
const all = (axes: Axis[]) => Array.from({ length: axes.reduce((product, one) => product * one.values.length, 1) }, (_, i) => i);
const tried = (axes: Axis[], values: Record<string, number>): Tried => ({ axes, combinations: all(axes), values });

describe("trials that were made before", () => {
  it("are those with the same values of every name, varied or not", () => {
    const own = tried([axis("fast", [5, 10, 15]), axis("slow", [20, 40])], { fast: 5, slow: 20, stop: 2 });
    expect(repeatedOf(own, [])).toBe(0);
    expect(repeatedOf(own, [own])).toBe(6);
    // fast alone, at slow = 40
    expect(repeatedOf(own, [tried([axis("fast", [10, 15, 20])], { fast: 5, slow: 40, stop: 2 })])).toBe(2);
    // another stop is another trial
    expect(repeatedOf(own, [tried([axis("fast", [10, 15, 20])], { fast: 5, slow: 40, stop: 3 })])).toBe(0);
    // the stop is varied, and one of its values is one's own
    expect(repeatedOf(own, [tried([axis("stop", [1, 2])], { fast: 15, slow: 20, stop: 9 })])).toBe(1);
  });

  it("are those of the definition", () => {
    const names = ["a", "b", "c"];
    const some = fc.record({
      varied: fc.subarray(names, { minLength: 1 }),
      values: fc.record({ a: fc.integer({ min: 0, max: 2 }), b: fc.integer({ min: 0, max: 2 }), c: fc.integer({ min: 0, max: 2 }) }),
      lists: fc.array(fc.uniqueArray(fc.integer({ min: 0, max: 3 }), { minLength: 1, maxLength: 3 }), { minLength: 3, maxLength: 3 }),
    });
    const make = ({ varied, values, lists }: { varied: string[]; values: Record<string, number>; lists: number[][] }) =>
      tried(
        varied.map((name, i) => axis(name, lists[i])),
        values,
      );
    const whole = ({ axes, combinations, values }: Tried) =>
      Array.from(combinations, (combination) => JSON.stringify(Object.entries({ ...values, ...valuesOf(axes, combination) }).sort()));
    fc.assert(
      fc.property(some, fc.array(some, { maxLength: 3 }), (own, others) => {
        const [mine, before] = [make(own), others.map(make)];
        const known = new Set(before.flatMap(whole));
        expect(repeatedOf(mine, before)).toBe(whole(mine).filter((key) => known.has(key)).length);
      }),
    );
  });
});
