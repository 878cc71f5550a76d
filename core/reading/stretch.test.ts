import { describe, expect, it } from "vitest";
import { DAY } from "#core/bars";
import type { Trade } from "#core/documents";
import { stretchFigures } from ".";

const times = [0, 1, 2, 3, 4, 5].map((day) => day * DAY);
const equity = [100, 110, 121, 96.8, 121, 242];
const trade = (net: number, day: number, open = false) =>
  ({ id: day, net, gross: net, bars: 1, r: null, open, exitTime: open ? null : new Date(day * DAY).toISOString() }) as Trade;
const trades = [trade(10, 1), trade(-4, 3), trade(20, 4), trade(7, 5, true)];

describe("a stretch of a run", () => {
  it("has figures of its own, and so has the rest", () => {
    // from 121 to 121 by way of 96.8; before it 121 ÷ 100, after it 242 ÷ 121
    const { inside, outside } = stretchFigures(times, equity, trades, 3 * DAY, 4 * DAY, 100)!;
    expect(inside).toMatchObject({ netPercent: 0, trades: 2, winRate: 0.5, averageTrade: 8, profitFactor: 5, cagr: 0 });
    expect(inside.maxDrawdownPercent).toBeCloseTo(20, 9);
    expect(outside.netPercent).toBeCloseTo(100 * (1.21 * 2 - 1), 9);
    expect(outside).toMatchObject({ trades: 1, maxDrawdownPercent: null });
    expect(outside.cagr! / (100 * (2.42 ** (365.25 / 4) - 1))).toBeCloseTo(1, 9);
  });

  it("may be the whole, beginning with the capital, and leaves nothing then", () => {
    const { inside, outside } = stretchFigures(times, equity, trades, -DAY, 99 * DAY, 100)!;
    expect(inside.netPercent).toBeCloseTo(142, 9);
    expect([inside.trades, outside.trades, outside.netPercent]).toEqual([3, 0, null]);
  });

  it("without a point in it is none", () => {
    expect(stretchFigures(times, equity, trades, 2.2 * DAY, 2.8 * DAY, 100)).toBeNull();
    expect(stretchFigures(times, equity, trades, 5 * DAY, 3 * DAY, 100)).toBeNull();
  });

  it("that begins with nothing left has no growth", () => {
    expect(stretchFigures(times, [100, 0, 0, 50, 60, 70], [], 3 * DAY, 4 * DAY, 100)!.inside.netPercent).toBeNull();
  });
});
