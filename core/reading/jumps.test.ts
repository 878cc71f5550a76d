import { describe, expect, it } from "vitest";
import type { Trade } from "#core/documents";
import { rankedByPercent } from ".";

const trades = [3, -8, 40, null, 1, 5].map((percent, i) => ({ id: i + 1, percent, open: false }) as Trade);

describe("trades by percent result", () => {
  it("come with the jump to the next in the list", () => {
    expect(rankedByPercent(trades, "best", 3).map(({ trade, jump }) => [trade.id, jump])).toEqual([
      [3, 35],
      [6, 2],
      [1, 2],
    ]);
    expect(rankedByPercent(trades, "worst", 9).map(({ percent, jump }) => [percent, jump])).toEqual([
      [-8, 9],
      [1, 2],
      [3, 2],
      [5, 35],
      [40, null],
    ]);
  });
  it("leave out what is open", () => {
    expect(rankedByPercent([{ ...trades[0], open: true }], "best", 3)).toEqual([]);
  });
});
