import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { frontOf, type Standing } from ".";

describe("the front of trials that none beats in both figures", () => {
  it.each<[[boolean, boolean]]>([[[true, true]], [[true, false]], [[false, false]]])("is that of its definition: %j", (more) => {
    const figure = fc.integer({ min: 0, max: 6 });
    fc.assert(
      fc.property(fc.array(fc.tuple(figure, figure), { maxLength: 25 }), (pairs) => {
        const trials = pairs.map(([x, y], number): Standing => ({ number, x, y }));
        const [sx, sy] = more.map((wanted) => (wanted ? 1 : -1));
        const beats = (a: Standing, b: Standing) =>
          sx * a.x >= sx * b.x && sy * a.y >= sy * b.y && (sx * a.x > sx * b.x || sy * a.y > sy * b.y);
        const expected = trials.filter((trial) => !trials.some((other) => beats(other, trial)));
        expect(
          frontOf(trials, more)
            .map(({ number }) => number)
            .sort((a, b) => a - b),
        ).toEqual(expected.map(({ number }) => number));
      }),
    );
  });
});
