import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { TrialTable, type Axis } from ".";

const axis = (name: string, values: number[]): Axis => ({ name, values, steps: true });
const AXES = [axis("fast", [5, 10, 15]), axis("slow", [20, 40]), axis("stop", [1, 2])];
const SEARCH = {
  objective: [{ metric: "netProfit", want: "more" as const, weight: 1 }],
  limits: [{ metric: "trades", least: 30 }],
};

/** All twelve trials; their net is their number times ten, those below number 2 have too few trades, number 5 has no net. */
function table() {
  const numbers = Array.from({ length: 12 }, (_, i) => i);
  const figures: Record<string, Float64Array> = {
    netProfit: Float64Array.from(numbers, (i) => (i === 5 ? NaN : 10 * i)),
    trades: Float64Array.from(numbers, (i) => (i < 2 ? 10 : 40)),
    sharpe: Float64Array.from(numbers, (i) => (i % 4) / 10),
  };
  return new TrialTable(AXES, SEARCH, numbers, numbers, (metric) => figures[metric]);
}

describe("a table of trials", () => {
  it("has values by name, and a fit for those inside the limits", () => {
    const trials = table();
    expect(trials.values(7)).toEqual({ fast: 10, slow: 40, stop: 2 });
    expect([...trials.column("slow")]).toEqual([20, 20, 40, 40, 20, 20, 40, 40, 20, 20, 40, 40]);
    expect([...trials.fit]).toEqual([NaN, NaN, 20, 30, 40, NaN, 60, 70, 80, 90, 100, 110]);
    expect(trials.best()).toBe(11);
    expect(trials.broken(0)).toEqual([{ metric: "trades", least: 30 }]);
    expect(trials.broken(5)).toEqual([{ metric: "netProfit", lacks: true }]);
    expect(trials.broken(6)).toEqual([]);
  });

  it("is sorted by any column, and filtered by bounds and by standing", () => {
    const trials = table();
    expect([...trials.order("netProfit", true, null)].slice(0, 3)).toEqual([11, 10, 9]);
    expect([...trials.order("netProfit", true, null)].at(-1)).toBe(5);
    const passing = trials.passing(
      [
        { key: "sharpe", least: 0.1, most: 0.2 },
        { key: "fast", least: null, most: 10 },
      ],
      "inside",
    );
    expect([...trials.order("number", false, passing)]).toEqual([2, 6]);
    expect(trials.best(passing)).toBe(6);
    expect([...trials.order("number", false, trials.passing([], "outside"))]).toEqual([0, 1, 5]);
    expect(trials.passing([])).toBeNull();
    expect(trials.has("stop") && trials.has("fit") && trials.has("sharpe") && !trials.has("stopp")).toBe(true);
  });

  it("gives a map over two names with the others fixed, at their best, or in the middle", () => {
    const trials = table();
    const fixed = trials.map("slow", "stop", "netProfit", { how: "fixed", at: { fast: 15 } });
    expect(fixed.map(({ x, y, value, number }) => [x, y, value, number])).toEqual([
      [20, 1, 80, 8],
      [20, 2, 90, 9],
      [40, 1, 100, 10],
      [40, 2, 110, 11],
    ]);
    const best = trials.map("slow", "stop", "netProfit", { how: "best" });
    expect(best.map(({ number, count }) => [number, count])).toEqual([
      [8, 3],
      [9, 3],
      [10, 3],
      [11, 3],
    ]);
    const middle = trials.map("slow", "stop", "netProfit", { how: "median" });
    expect(middle.map(({ value }) => value)).toEqual([40, 50, 60, 70]);
  });

  it("finds a trial's row by its number where some are not there yet", () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 0, max: 60 })), (some) => {
        const numbers = [...some].sort((a, b) => a - b);
        const trials = new TrialTable(AXES, SEARCH, numbers, numbers, () => new Float64Array(numbers.length));
        for (let number = 0; number <= 60; number++) expect(trials.rowOf(number)).toBe(numbers.indexOf(number));
      }),
    );
  });
});
