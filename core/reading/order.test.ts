import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { orderOf } from ".";

describe("the order of keys", () => {
  it.each([false, true])("is that of a stable comparison, with NaN last (falling: %s)", (falling) => {
    const key = fc.oneof(fc.double(), fc.constantFrom(0, -0, NaN, 1, -1, Infinity, -Infinity), fc.integer({ min: -3, max: 3 }));
    fc.assert(
      fc.property(fc.array(key, { maxLength: 60 }), (keys) => {
        const places = keys.map((_, i) => i);
        const expected = places.sort((a, b) => {
          const [x, y] = [keys[a], keys[b]];
          if (Number.isNaN(x) || Number.isNaN(y)) return Number(Number.isNaN(x)) - Number(Number.isNaN(y)) || a - b;
          return x < y ? (falling ? 1 : -1) : x > y ? (falling ? -1 : 1) : a - b;
        });
        expect([...orderOf(Float64Array.from(keys), falling)]).toEqual(expected);
      }),
    );
  });
});
