import { describe, expect, it } from "vitest";
import type { Trade } from "#core/documents";
import { groupedLines, isSubtotal, sortedTrades } from "./trade-order";

const trade = (id: number, more: Partial<Trade> = {}): Trade => ({
  id,
  symbol: "FERRY",
  side: "long",
  units: 1,
  entryTime: "2020-01-01T00:00:00.000Z",
  entryPrice: 100,
  entryReason: "rule",
  exitTime: "2020-02-01T00:00:00.000Z",
  exitPrice: 101,
  exitReason: "rule",
  bars: 5,
  gross: 1,
  costs: 0,
  net: 1,
  percent: 1,
  r: null,
  mae: 0,
  mfe: 0,
  open: false,
  ...more,
});
const ids = (trades: readonly Trade[]) => trades.map(({ id }) => id);

describe("trades in order", () => {
  const trades = [
    trade(1, { net: 5, symbol: "WOOL", r: 1 }),
    trade(2, { net: -2, symbol: "KELP", r: null }),
    trade(3, { net: 5, symbol: "FERRY", r: -1 }),
    trade(4, { net: 0, symbol: "KELP", exitTime: null, exitReason: null, exitPrice: null, open: true }),
  ];

  it("go by a column, up or down, with ties in the order of ids", () => {
    expect(ids(sortedTrades(trades, "net"))).toEqual([2, 4, 1, 3]);
    expect(ids(sortedTrades(trades, "-net"))).toEqual([1, 3, 4, 2]);
    expect(ids(sortedTrades(trades, "symbol"))).toEqual([3, 2, 4, 1]);
    expect(ids(sortedTrades(trades, "-symbol"))).toEqual([1, 2, 4, 3]);
  });

  it("leave what has no value at the end, either way", () => {
    expect(ids(sortedTrades(trades, "r"))).toEqual([3, 1, 2, 4]);
    expect(ids(sortedTrades(trades, "-r"))).toEqual([1, 3, 2, 4]);
    expect(ids(sortedTrades(trades, "exitTime"))).toEqual([1, 2, 3, 4]);
  });

  it("go by number where a column is none", () => {
    expect(ids(sortedTrades(trades, "nothing"))).toEqual([1, 2, 3, 4]);
    expect(sortedTrades([], "net")).toEqual([]);
  });

  it("stand in groups behind their subtotals, the largest net first and open ones last", () => {
    const lines = groupedLines(trades, "market", {}, new Set(["WOOL"]));
    expect(lines.map((line) => (isSubtotal(line) ? `${line.key} ${line.count} ${line.winners} ${line.net}` : line.id))).toEqual([
      "WOOL 1 1 5",
      "FERRY 1 1 5",
      3,
      "KELP 1 0 -2",
      2,
      "still open 1 0 0",
      4,
    ]);
  });
});
