import { describe, expect, it } from "vitest";
import { METRIC_INDEX, METRIC_KEYS } from "#core/metrics";
import { figuresFault, poolFigures } from ".";

const figures = (known: Record<string, number>) => Float64Array.from(METRIC_KEYS, (key) => known[key] ?? NaN);
const MARKETS = [
  figures({ netProfit: 300, grossProfit: 500, grossLoss: -200, trades: 10, winners: 6, losers: 4, maxDrawdownPercent: 5, sharpe: 1 }),
  figures({ netProfit: -100, grossProfit: 100, grossLoss: -200, trades: 5, winners: 1, losers: 4, maxDrawdownPercent: 20 }),
  figures({ netProfit: 50, grossProfit: 90, grossLoss: -40, trades: 3, winners: 2, losers: 1, maxDrawdownPercent: 8, sharpe: 0.4 }),
];
const of = (pooled: Float64Array, key: string) => pooled[METRIC_INDEX[key]];

describe("figures of markets that are taken each by itself", () => {
  it("add up where they are sums, with the ratios that follow", () => {
    const pooled = poolFigures(MARKETS, "sum");
    expect(of(pooled, "netProfit")).toBe(250);
    expect(of(pooled, "profitFactor")).toBeCloseTo(690 / 440, 12);
    expect(of(pooled, "winRate")).toBe(0.5);
    expect(of(pooled, "averageTrade")).toBeCloseTo(250 / 18, 12);
    expect(of(pooled, "sharpe")).toBeNaN();
    expect(of(pooled, "maxDrawdownPercent")).toBeNaN();
  });

  it("are those of the middle market, one without a value at the bad end", () => {
    const pooled = poolFigures(MARKETS, "median");
    expect(of(pooled, "netProfit")).toBe(50);
    expect(of(pooled, "maxDrawdownPercent")).toBe(8);
    expect(of(pooled, "sharpe")).toBe(0.4);
    expect(of(poolFigures(MARKETS.slice(1), "median"), "sharpe")).toBeNaN();
  });

  it("are those of the worst market, none where it has none", () => {
    const pooled = poolFigures(MARKETS, "worst");
    expect(of(pooled, "netProfit")).toBe(-100);
    expect(of(pooled, "maxDrawdownPercent")).toBe(20);
    expect(of(pooled, "trades")).toBe(3);
    expect(of(pooled, "sharpe")).toBeNaN();
  });

  it("must hold what is asked for", () => {
    const wish = (metric: string) => ({ objective: [{ metric, want: "more" as const, weight: 1 }], limits: [] });
    expect(figuresFault({ ...wish("sharpe"), pooling: "sum" })).toMatchObject({ path: "pooling" });
    expect(figuresFault({ ...wish("sharpe"), pooling: "median" })).toBeNull();
    expect(figuresFault({ ...wish("netProfit"), pooling: "sum" })).toBeNull();
    expect(figuresFault({ ...wish("sharpe"), withoutBest: 3 })).toMatchObject({ path: "withoutBest" });
    expect(figuresFault({ ...wish("netProfit"), withoutBest: 3 })).toBeNull();
  });
});
