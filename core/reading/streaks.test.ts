import { describe, expect, it } from "vitest";
import type { Trade } from "#core/documents";
import { streaksOf } from ".";

const trades = (nets: readonly number[]) =>
  nets.map((net, i) => ({ id: i + 1, net, open: false, exitTime: new Date(Date.UTC(2020, 0, 1 + i)).toISOString() }) as Trade);

describe("runs of winners and losers", () => {
  it("are counted by hand", () => {
    const { runs, lengths, z } = streaksOf(trades([1, 2, -1, -2, -3, 0, -4, 5]));
    expect(runs.map(({ won, count, net, first, last }) => [won, count, net, first, last])).toEqual([
      [true, 2, 3, 1, 2],
      [false, 3, -6, 3, 5],
      [false, 1, -4, 7, 7],
      [true, 1, 5, 8, 8],
    ]);
    expect(lengths).toEqual([
      { length: 1, won: 1, lost: 1 },
      { length: 2, won: 1, lost: 0 },
      { length: 3, won: 0, lost: 1 },
    ]);
    // 3 winners, 4 losers, 3 turns of won and lost: expected 24/7 + 1, variance 24 · 17 / (49 · 6)
    expect(z).toBeCloseTo((3 - (24 / 7 + 1)) / Math.sqrt((24 * 17) / (49 * 6)), 12);
  });

  it("go by the time of the exit, and leave open trades out", () => {
    const [a, b, c] = trades([1, -1, 1]);
    expect(streaksOf([c, { ...b, open: true }, a]).runs).toMatchObject([{ won: true, count: 2, first: 1, last: 3 }]);
  });

  it("say nothing of too few", () => {
    expect(streaksOf([])).toEqual({ runs: [], lengths: [], z: null });
    expect(streaksOf(trades([1, -1, -1])).z).toBeNull();
  });
});
