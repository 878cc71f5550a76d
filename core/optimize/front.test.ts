import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { frontOf, thinRows } from ".";

describe("the front of trials that none beats in both figures", () => {
  it.each<[[boolean, boolean]]>([[[true, true]], [[true, false]], [[false, false]]])("is that of its definition: %j", (more) => {
    const figure = fc.oneof({ weight: 9, arbitrary: fc.integer({ min: 0, max: 6 }) }, { weight: 1, arbitrary: fc.constant(NaN) });
    fc.assert(
      fc.property(fc.array(fc.tuple(figure, figure), { maxLength: 25 }), (pairs) => {
        const [x, y] = [0, 1].map((k) => Float64Array.from(pairs, (pair) => pair[k]));
        const [sx, sy] = more.map((wanted) => (wanted ? 1 : -1));
        const beats = ([ax, ay]: number[], [bx, by]: number[]) =>
          sx * ax >= sx * bx && sy * ay >= sy * by && (sx * ax > sx * bx || sy * ay > sy * by);
        const known = pairs.flatMap((pair, row) => (pair.some(Number.isNaN) ? [] : [row]));
        const expected = known.filter((row) => !known.some((other) => beats(pairs[other], pairs[row])));
        expect(frontOf(x, y, more).sort((a, b) => a - b)).toEqual(expected);
      }),
    );
  });
});

describe("rows for drawing", () => {
  it("lie one in a cell, the first of each, and lose none of the corners", () => {
    const n = 20_000;
    const x = Float64Array.from({ length: n }, (_, i) => i % 200);
    const y = Float64Array.from({ length: n }, (_, i) => Math.floor(i / 200));
    x[7] = NaN;
    const kept = thinRows(x, y, 20, 10);
    expect(kept.length).toBe(200);
    expect(kept[0]).toBe(0);
    expect(kept).not.toContain(7);
    expect(thinRows(Float64Array.of(3), Float64Array.of(4))).toEqual([0]);
    expect(thinRows(new Float64Array(0), new Float64Array(0))).toEqual([]);
  });
});
