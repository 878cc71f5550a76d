import { describe, expect, it } from "vitest";
import type { Trade } from "#core/documents";
import { byTradeNumber, uncompounded } from ".";

describe("curves without compounding", () => {
  it("add the returns of the bars up", () => {
    const curve = uncompounded([110, 99, 148.5], 100);
    [110, 100, 150].forEach((x, t) => expect(curve[t]).toBeCloseTo(x, 10));
  });
  it("have no value once the account is gone", () => {
    expect([...uncompounded([110, -5, 20], 100)].map((x) => Number.isNaN(x))).toEqual([false, false, true]);
  });
  it("count trades in the order of their exits, open ones left out", () => {
    const trade = (id: number, exitTime: string | null, net: number) => ({ id, exitTime, net, open: exitTime === null }) as Trade;
    expect([
      ...byTradeNumber([trade(1, "2020-02-01", 5), trade(2, "2020-01-01", -3), trade(3, null, 9), trade(4, "2020-02-01", 1)], 100),
    ]).toEqual([100, 97, 102, 103]);
    expect([...byTradeNumber([], 100)]).toEqual([100]);
  });
});
