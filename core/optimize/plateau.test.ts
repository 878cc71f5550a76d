import { describe, expect, it } from "vitest";
import { defaultMark, fragilityOf, Places, plateauOf } from ".";

const axis = (name: string, count: number, steps = true) => ({ name, values: Array.from({ length: count }, (_, k) => k), steps });
/** Fits of a grid of rows by columns, as trials in grid order. */
const grid = (rows: number[][]) => ({
  places: new Places(
    [axis("a", rows.length), axis("b", rows[0].length)],
    rows.flat().map((_, k) => k),
  ),
  fits: rows.flat(),
});

describe("the plateau", () => {
  it("is the largest region at or above the mark; the deepest trial of it is recommended", () => {
    const { places, fits } = grid([
      [9, 1, 1, 1, 1, 1],
      [1, 5, 5, 5, 5, 5],
      [1, 5, 5, 6, 5, 5],
      [1, 5, 5, 5, 5, 5],
      [1, 1, 1, 1, 1, 1],
    ]);
    const { trials, depth, recommended } = plateauOf(places, fits, 5);
    expect(trials.length).toBe(15);
    // two steps from the top, the bottom and the left; the right side is the edge of the grid
    expect([...depth!].map((d) => d)).toEqual(
      [
        [0, 0, 0, 0, 0, 0],
        [0, 1, 1, 1, 1, 1],
        [0, 1, 2, 2, 2, 1],
        [0, 1, 1, 1, 1, 1],
        [0, 0, 0, 0, 0, 0],
      ].flat(),
    );
    expect(recommended).toBe(2 * 6 + 3);
  });

  it("of regions of one size is the one with the higher fit in it, and none where no trial reaches the mark", () => {
    const { places, fits } = grid([[5, 1, 7, 1, 6]]);
    expect(plateauOf(places, fits, 5)).toMatchObject({ trials: [2], recommended: 2 });
    expect(plateauOf(places, fits, 8)).toMatchObject({ trials: [], recommended: null });
  });

  it("has edges where a combination is no trial or is outside", () => {
    const places = new Places([axis("a", 5)], [0, 1, 2, 4]);
    expect([...plateauOf(places, [5, 5, 5, 5], 1).depth!]).toEqual([1, 2, 1, 0]);
    const whole = new Places([axis("a", 5)], [0, 1, 2, 3, 4]);
    expect([...plateauOf(whole, [5, 5, 5, 5, null], 1).depth!]).toEqual([1, 2, 2, 1, 0]);
  });

  it("has no depth where nothing has steps, and lists do not connect", () => {
    const places = new Places([axis("a", 3, false)], [0, 1, 2]);
    expect(plateauOf(places, [5, 7, 6], 5)).toMatchObject({ depth: null, trials: [1], recommended: 1 });
    const both = new Places([axis("a", 2, false), axis("b", 3)], [0, 1, 2, 3, 4, 5]);
    expect(plateauOf(both, [5, 5, 1, 5, 5, 5], 5).trials).toEqual([3, 4, 5]);
  });

  it("is marked halfway from the median to the 95th percentile, the lower of two", () => {
    expect(defaultMark([1, 2, 3, null, 4])).toBe((2.5 + 3) / 2);
    expect(defaultMark(Array.from({ length: 101 }, (_, k) => k))).toBe((50 + 95) / 2);
    expect(defaultMark([null])).toBeNull();
  });
});

describe("fragility", () => {
  it("is what the middle of the neighbours lacks", () => {
    const { places, fits } = grid([
      [1, 4, 1],
      [2, 8, 6],
      [1, 5, 1],
    ]);
    expect(fragilityOf(places, fits, 4)).toBeCloseTo(1 - 4.5 / 8, 12);
    expect(fragilityOf(places, [...fits.slice(0, 3), null, ...fits.slice(4)], 4)).toBeCloseTo(1 - 4.5 / 8, 12);
    expect(fragilityOf(places, [null, -1, null, null, 8, null, null, null, null], 4)).toBeCloseTo(1 - 0 / 8, 12);
  });
  it("has no value without neighbours, and for a fit at or below 0", () => {
    expect(fragilityOf(new Places([axis("a", 3, false)], [0, 1, 2]), [1, 2, 3], 1)).toBeNull();
    expect(fragilityOf(new Places([axis("a", 3)], [0, 1, 2]), [1, 0, 3], 1)).toBeNull();
  });
});
