import { describe, expect, it } from "vitest";
import { DAY, emptyBars } from "#core/bars";
import { againstFigures, atTimes, cashFrom, heldFrom } from ".";

const dates = [0, 20, 40, 50, 70];
const times = Float64Array.from(dates, (day) => day * DAY);
const given = (own: number[], other: number[]) =>
  againstFigures({
    times,
    own: Float64Array.from(own),
    other: Float64Array.from(other),
    capital: 100,
    ends: [0, 1, 2, 3, 4],
    perYear: 252,
    days: 365.25,
    dates,
  });

describe("a run held against something else", () => {
  it("has figures by hand", () => {
    // months of 1970: January ends with point 1, February with 3, March with 4
    const figures = given([100, 110, 110, 99, 121], [100, 105, 100, 84, 126]);
    expect(figures.netPercent[0]).toBeCloseTo(21, 10);
    expect(figures.netPercent[1]).toBeCloseTo(26, 10);
    expect(figures.cagr[0]).toBeCloseTo(21, 10);
    expect(figures.excess).toBeCloseTo(-5, 10);
    expect(figures.maxDrawdownPercent[0]).toBeCloseTo(10, 10);
    expect(figures.maxDrawdownPercent[1]).toBeCloseTo(20, 10);
    // own months +10 %, −10 %, +22.2 %; the other's +5 %, −20 %, +50 %
    expect(figures).toMatchObject({ months: 3, better: 2, up: { count: 2 }, down: { count: 1 } });
    expect(figures.up.own).toBeCloseTo((10 + 100 * (121 / 99 - 1)) / 2, 10);
    expect(figures.up.other).toBeCloseTo(27.5, 10);
    expect(figures.down.share).toBeCloseTo(50, 10);
  });

  it("follows a line of its own returns: beta 2, no alpha, correlation 1", () => {
    const other = [101, 99, 103, 102, 104];
    let value = 100;
    const own = other.map((x, k) => (value *= 1 + 2 * (x / (k === 0 ? 100 : other[k - 1]) - 1)));
    const { beta, alpha, correlation } = given(own, other);
    expect(beta).toBeCloseTo(2, 10);
    expect(alpha).toBeCloseTo(0, 8);
    expect(correlation).toBeCloseTo(1, 10);
  });

  it("says nothing where nothing can be said", () => {
    expect(given([100, 110, 90, 80, 100], [100, 100, 100, 100, 100])).toMatchObject({
      beta: null,
      correlation: null,
      up: { count: 0, own: null },
    });
    expect(given([100, -5, 90, 80, 100], [100, 101, 99, 100, 103])).toMatchObject({ beta: null, months: 0, up: { share: null } });
    expect(given([100, 100, 100, 100, -4], [100, 101, 99, 100, 103])).toMatchObject({ cagr: [null, expect.any(Number)], excess: null });
  });

  it("takes the last known value of another curve", () => {
    expect([...atTimes([1, 2, 3, 9], [2, 5], [20, 50], 7)]).toEqual([7, 20, 20, 50]);
  });

  it("holds a market from its first open on, and cash until then", () => {
    const bars = emptyBars(3);
    bars.time.set([20 * DAY, 40 * DAY, 50 * DAY]);
    bars.open.set([10, 11, 12]);
    bars.close.set([11, 12, 9]);
    const held = heldFrom(bars, times, 100);
    [100, 110, 120, 90, 90].forEach((x, t) => expect(held[t]).toBeCloseTo(x, 10));
    bars.open[0] = 0;
    expect([...heldFrom(bars, times, 100)]).toEqual([100, 100, 100, 100, 100]);
  });

  it("lets cash grow by its rate", () => {
    expect(cashFrom([0, 365.25 * DAY], 100, 4)[1]).toBeCloseTo(104, 10);
  });
});
