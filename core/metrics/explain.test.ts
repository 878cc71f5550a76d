import { describe, expect, it } from "vitest";
import { DAY, emptyBars } from "#core/bars";
import { readSettings, readStrategy, type Metrics } from "#core/documents";
import { backtest } from "#core/runs";
import { fixtureFolders, fixtureJson } from "#core/testing/fixtures";
import { METRIC_KEYS, METRIC_PARTS, whyMissing } from ".";

/** A run on closes, one position from the second bar on that is closed on every fourth; a condition may keep it out. */
function run(closes: readonly number[], when = "close > 0", more: object = {}, leverage = 1) {
  const bars = emptyBars(closes.length);
  closes.forEach((close, i) => {
    bars.time[i] = Date.UTC(2021, 0, 4) + i * DAY;
    bars.open[i] = bars.high[i] = bars.low[i] = bars.close[i] = close;
    bars.volume[i] = 1;
  });
  const settings = readSettings({
    format: "canyon.settings/1",
    capital: 1000,
    leverage,
    markets: [{ symbol: "X", bars: "x", timeframe: "1d" }],
  }).value!;
  const strategy = readStrategy({
    format: "canyon.strategy/1",
    timeframe: "1d",
    long: { enter: { when } },
    protect: { maxBarsHeld: 1 },
    sizing: { mode: "units", value: 1 },
    ...more,
  }).value!;
  const { result, problems } = backtest(strategy, settings, [bars]);
  expect(problems).toEqual([]);
  return result!;
}

/** No figure is NaN or infinite, and every one that is missing says why. */
function sound({ all, long, short }: { all: Metrics; long: Metrics; short: Metrics }) {
  for (const [part, figures] of [
    ["all", all],
    ["long", long],
    ["short", short],
  ] as const)
    // prettier-ignore
    for (const key of METRIC_KEYS) {
      const value = figures[key];
      expect(value === null || Number.isFinite(value), `${key} of ${part} is ${value}`).toBe(true);
      if (value === null) expect(whyMissing(key, figures, part), `${key} of ${part}`).not.toMatch(/can't be computed/);
    }
  return all;
}

describe("degenerate runs", () => {
  it("without a trade", () => {
    const all = sound(run([10, 11, 12, 13], "close < 0").metrics);
    expect(all).toMatchObject({
      trades: 0,
      netProfit: 0,
      winRate: null,
      averageTrade: null,
      profitFactor: null,
      sharpe: null,
      volatility: 0,
    });
    expect(whyMissing("winRate", all, "all")).toBe("no trade was closed");
    expect(whyMissing("profitToDrawdown", all, "all")).toBe("the equity never fell");
  });
  it("with one trade", () => {
    const all = sound(run([10, 11, 13, 13], "close = 10").metrics);
    expect(all).toMatchObject({ trades: 1, winners: 1, tradeT: null, payoffRatio: null, profitFactor: null });
    expect(whyMissing("tradeT", all, "all")).toBe("one trade alone has no spread");
    expect(whyMissing("profitFactor", all, "all")).toBe("no trade was lost");
  });
  it("with winners only, and with losers only", () => {
    const won = sound(run([10, 11, 13, 16, 20, 25]).metrics);
    expect(won).toMatchObject({ losers: 0, averageLoss: null, largestLoss: null, maxLossRun: 0 });
    const lost = sound(run([25, 20, 16, 13, 11, 10]).metrics);
    expect(lost).toMatchObject({ winners: 0, averageWin: null, profitFactor: 0, maxWinRun: 0 });
    expect(whyMissing("payoffRatio", lost, "all")).toBe("no trade was won");
    expect(whyMissing("costShare", lost, "all")).toMatch(/no profit before costs/);
  });
  it("with trades that all came to the same, and without any variance", () => {
    const same = sound(run([10, 10, 10, 10, 10, 10, 10]).metrics);
    expect(same.scratches).toBeGreaterThan(1);
    expect(same).toMatchObject({ tradeT: null, equityR2: null, sharpe: null, volatility: 0 });
    expect(whyMissing("tradeT", same, "all")).toBe("all trades came to the same");
  });
  it("with an account that fell below 0", () => {
    const gone = sound(run([100, 100, 20, 10, 10], "close = 100", { sizing: { mode: "units", value: 20 } }, 5).metrics);
    expect(gone.netPercent!).toBeLessThan(-100);
    expect(gone).toMatchObject({ cagr: null, sharpe: null });
    expect(whyMissing("cagr", gone, "all")).toBe("nothing was left of the account at the end");
  });
  it("on one bar", () => {
    sound(run([10]).metrics);
  });
  it.each(fixtureFolders("backtests"))("and any other: %s", (folder) => {
    sound((fixtureJson(`backtests/${folder}/expected.json`) as { metrics: { all: Metrics; long: Metrics; short: Metrics } }).metrics);
  });
});

describe("what goes into figures", () => {
  it("are figures themselves, of figures", () => {
    for (const [key, parts] of Object.entries(METRIC_PARTS)) {
      expect(METRIC_KEYS).toContain(key);
      for (const part of parts) expect(METRIC_KEYS).toContain(part);
      expect(parts).not.toContain(key);
    }
  });
});
