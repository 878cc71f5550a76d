import { describe, expect, it } from "vitest";
import { DAY, emptyBars, parseDate } from "#core/bars";
import { readSettings, readStrategy } from "#core/documents";
import { backtest } from "#core/runs";
import { METRIC_KEYS, recomputeMetrics } from ".";

/** Daily bars from 2024-01-01 (a Monday) whose open is the close before, through the given closes. */
function barsOf(closes: number[]) {
  const bars = emptyBars(closes.length);
  closes.forEach((close, i) => {
    const open = i === 0 ? close : closes[i - 1];
    bars.time[i] = parseDate("2024-01-01")! * DAY + i * DAY;
    bars.open[i] = open;
    bars.close[i] = close;
    bars.high[i] = Math.max(open, close);
    bars.low[i] = Math.min(open, close);
  });
  return bars;
}

const run = (closes: number[], strategy: object = {}, settings: object = {}) =>
  backtest(
    readStrategy({
      format: "canyon.strategy/1",
      timeframe: "1d",
      long: { enter: { when: "close is rising" }, exit: { when: "close is falling" } },
      sizing: { mode: "units", value: 10 },
      ...strategy,
    }).value!,
    readSettings({
      format: "canyon.settings/1",
      markets: [{ symbol: "X", bars: "x", timeframe: "1d", tick: 1 }],
      capital: 10_000,
      benchmark: "X",
      ...settings,
    }).value!,
    [barsOf(closes)],
  ).result!;

describe("figures of a run that can be counted by hand", () => {
  // enters at 101 (out at 103), at 104 (out at 100), at 103 (still open at 106)
  const closes = [100, 101, 104, 103, 103, 104, 104, 100, 100, 103, 104, 106];
  const result = run(closes);
  const { all, long, short } = result.metrics;

  it("trades", () => {
    expect(result.trades.map((t) => [t.entryPrice, t.exitPrice, t.net])).toEqual([
      [101, 103, 20],
      [104, 100, -40],
      [103, null, 30],
    ]);
    expect(all).toMatchObject({
      trades: 2,
      openTrades: 1,
      winners: 1,
      losers: 1,
      scratches: 0,
      winRate: 0.5,
      grossProfit: 20,
      grossLoss: -40,
      profitFactor: 0.5,
      averageTrade: -10,
      medianTrade: -10,
      payoffRatio: 0.5,
      maxWinRun: 1,
      maxLossRun: 1,
    });
  });

  it("equity", () => {
    expect(all.netProfit).toBe(10);
    expect(all.netPercent).toBeCloseTo(0.1, 12);
    expect(result.equity.equity).toEqual([10_000, 10_000, 10_030, 10_020, 10_020, 10_020, 10_020, 9_980, 9_980, 9_980, 9_990, 10_010]);
    expect(all.maxDrawdown).toBe(50);
    expect(all.maxDrawdownClosed).toBe(40);
    expect(all.longestDrawdownDays).toBe(9);
    expect(all.timeUnderWater).toBeCloseTo(9 / 12, 12);
    expect(all.timeInMarket).toBeCloseTo(6 / 12, 12);
    expect(all.profitToDrawdown).toBeCloseTo(0.2, 12);
  });

  it("the benchmark is held from the first open with all the capital", () => {
    expect(all.benchmarkNetPercent).toBeCloseTo(6, 12);
    expect(all.benchmarkMaxDrawdownPercent).toBeCloseTo((100 * 4) / 104, 10);
  });

  it("parts carry trade figures only, and every figure has a place", () => {
    expect(long.netProfit).toBe(10);
    expect(long.sharpe).toBe(null);
    expect(short).toMatchObject({ trades: 0, netProfit: 0, winRate: null, profitFactor: null });
    for (const part of [all, long, short]) expect(Object.keys(part).sort()).toEqual([...METRIC_KEYS].sort());
  });

  it("tables: compounded on equity, uncompounded by the exits", () => {
    expect(result.tables.years).toEqual([{ period: "2024", percent: expect.closeTo(0.1, 10), uncompounded: expect.closeTo(-0.2, 10) }]);
  });
});

describe("figures that do not exist", () => {
  it("are null without trades, and sums are 0", () => {
    const { all } = run([100, 99, 98, 97], {}).metrics;
    expect(all).toMatchObject({
      trades: 0,
      netProfit: 0,
      grossProfit: 0,
      profitFactor: null,
      averageTrade: null,
      maxDrawdown: 0,
      profitToDrawdown: null,
      sharpe: null,
      volatility: 0,
      turnover: 0,
    });
  });

  it("profit factor without losers is null, not infinite", () => {
    expect(run([100, 101, 103, 102, 102]).metrics.all).toMatchObject({ winners: 1, losers: 0, profitFactor: null, payoffRatio: null });
  });

  it("returns are null once the equity is gone", () => {
    const { all } = run(
      [100, 101, 101, 10, 10],
      { long: { enter: { when: "close is rising" } }, sizing: { mode: "units", value: 500 } },
      { leverage: 10 },
    ).metrics;
    expect(all.cagr).toBe(null);
    expect(all.sharpe).toBe(null);
    expect(all.netProfit).toBeLessThan(-10_000);
  });
});

describe("a stored result", () => {
  it("gives its figures again", () => {
    const result = run([100, 101, 104, 103, 103, 104, 104, 100, 100, 103, 104, 106, 105, 105, 107, 106]);
    const { metrics, kept } = recomputeMetrics(result);
    for (const key of METRIC_KEYS.filter((k) => !kept.includes(k))) {
      const want = result.metrics.all[key];
      if (want === null) expect(metrics.all[key], key).toBe(null);
      else expect(metrics.all[key], key).toBeCloseTo(want, 7);
    }
  });
});
