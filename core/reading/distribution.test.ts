import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Trade } from "#core/documents";
import { excursionsOf, histogramOf, laddersOf, stopLadder } from ".";

describe("a histogram", () => {
  it("has the width of Freedman and Diaconis and an edge at zero", () => {
    // quartiles of −4 … 4 are −2 and 2: 2 · 4 ÷ ∛9
    const width = 8 / Math.cbrt(9);
    const bins = histogramOf([-4, -3, -2, -1, 0, 1, 2, 3, 4]);
    expect(bins.map(({ from, to }) => [from, to])).toEqual([
      [-2 * width, -width],
      [-width, 0],
      [0, width],
      [width, 2 * width],
    ]);
    // −4 is the only one below −3.85, 4 the only one from 3.85 on
    expect(bins.map(({ count }) => count)).toEqual([1, 3, 4, 1]);
  });

  it("has every value in exactly one bin, and never mixes losses with the rest", () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.integer({ min: -1e6, max: 1e6 }).map((x) => x / 7),
          { maxLength: 200 },
        ),
        (values) => {
          const bins = histogramOf(values);
          expect(bins.reduce((sum, bin) => sum + bin.count, 0)).toBe(values.length);
          expect(bins.length).toBeLessThanOrEqual(122);
          for (const bin of bins) expect(bin.from < 0 && bin.to > 1e-9 * Math.abs(bin.from)).toBe(false);
        },
      ),
    );
  });

  it("of nothing is empty, and of one value is one bin", () => {
    expect(histogramOf([])).toEqual([]);
    expect(histogramOf([5, 5])).toEqual([{ from: 0, to: 5, count: 2 }]);
    expect(histogramOf([0])).toEqual([{ from: 0, to: 1, count: 1 }]);
    // most values equal: the quartiles tell no width
    expect(histogramOf([1, 1, 1, 1, 1, 1, 1, 11]).length).toBe(10);
  });

  it("takes a long list", () => {
    expect(histogramOf(Array.from({ length: 150_000 }, (_, i) => i % 100)).reduce((sum, bin) => sum + bin.count, 0)).toBe(150_000);
  });
});

describe("excursions", () => {
  const trade = (id: number, net: number, mae: number, mfe: number, more: Partial<Trade> = {}) =>
    ({ id, symbol: "EEL", units: 2, entryPrice: 100, net, mae, mfe, open: false, ...more }) as Trade;
  // two units at 100 with a point value of 5 are 1,000
  const points = excursionsOf(
    [trade(1, 50, -20, 80), trade(2, -60, -60, 10), trade(3, 20, -40, 30), trade(4, 9, -1, 9, { open: true })],
    () => 5,
  );

  it("are told in percent of what was bought", () => {
    expect(points).toEqual([
      { id: 1, against: 2, with: 8, result: 5 },
      { id: 2, against: 6, with: 1, result: -6 },
      { id: 3, against: 4, with: 3, result: 2 },
    ]);
    expect(excursionsOf([trade(1, 1, 0, 1, { entryPrice: 0 })], () => 5)).toEqual([]);
  });

  it("say what a stop would have saved and cost", () => {
    expect(stopLadder(points, [1, 3, 5, 7])).toEqual([
      // all three leave at −1
      { distance: 1, stopped: 3, saved: 5, cost: 6 + 3, total: -3 },
      { distance: 3, stopped: 2, saved: 3, cost: 5, total: 5 - 3 - 3 },
      { distance: 5, stopped: 1, saved: 1, cost: 0, total: 5 + 2 - 5 },
      { distance: 7, stopped: 0, saved: 0, cost: 0, total: 1 },
    ]);
  });

  it("give a dozen distances to look at, none where nothing went against", () => {
    const distances = laddersOf(points);
    expect(distances.length).toBe(12);
    expect(distances.at(-1)).toBe(4);
    expect(laddersOf([])).toEqual([]);
    expect(laddersOf([{ id: 1, against: 0, with: 1, result: 1 }])).toEqual([]);
  });
});
