import { describe, expect, it } from "vitest";
import { profilesOf } from ".";

const axes = [
  { name: "a", values: [1, 2, 3], steps: true },
  { name: "b", values: [10, 20], steps: true },
];

describe("profiles", () => {
  it("are medians and quartiles along each name, and the share of the variance that it explains", () => {
    // 10 · a, whatever b is
    const [a, b] = profilesOf(axes, [0, 1, 2, 3, 4, 5], [10, 10, 20, 20, 30, 30]);
    expect(a.points.map(({ value, middle, count }) => [value, middle, count])).toEqual([
      [1, 10, 2],
      [2, 20, 2],
      [3, 30, 2],
    ]);
    expect([a.importance, b.importance]).toEqual([1, 0]);
    expect(b.points[0]).toEqual({ value: 10, count: 3, low: 15, middle: 20, high: 25 });
  });
  it("leave out trials without the figure, and values that none has", () => {
    const [a, b] = profilesOf(axes, [0, 1, 4], [1, null, 3]);
    expect(a.points.map(({ value }) => value)).toEqual([1, 3]);
    expect(b.points.map(({ value, count }) => [value, count])).toEqual([[10, 2]]);
  });
  it("have no importance where nothing varies", () => {
    expect(profilesOf(axes, [0, 1], [5, 5]).map(({ importance }) => importance)).toEqual([null, null]);
    expect(profilesOf(axes, [], []).map(({ points }) => points)).toEqual([[], []]);
  });
});
