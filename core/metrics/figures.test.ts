import { describe, expect, it } from "vitest";
import { readSettings, readStrategy } from "#core/documents";
import { simulate } from "#core/engine";
import { backtest, prepareBacktest } from "#core/runs";
import { fixtureBars, fixtureJson } from "#core/testing/fixtures";
import { METRIC_KEYS, TRADE_METRICS, wholeFigures } from ".";

const at = "research/01-two-averages";
const settings = readSettings(fixtureJson(`${at}/settings.json`)).value!;
const bars = settings.markets.map((market) => fixtureBars(`${at}/${market.bars}`));

describe("the figures of trades alone", () => {
  for (const stepwise of [false, true])
    it(`are the same without an equity at every close (${stepwise ? "general" : "short"} way), and no others are given`, () => {
      const { run } = prepareBacktest(readStrategy(fixtureJson(`${at}/strategy.json`)).value!, settings, bars);
      const whole = wholeFigures(simulate(run!, { stepwise }));
      const quick = wholeFigures(simulate(run!, { stepwise, equity: false }), "trades");
      METRIC_KEYS.forEach((key, i) => expect([key, quick[i]]).toEqual([key, TRADE_METRICS.has(key) ? whole[i] : NaN]));
      expect(quick[METRIC_KEYS.indexOf("trades")]).toBeGreaterThan(10);
    });
});

describe("the figures without the best trades", () => {
  const strategy = readStrategy(fixtureJson(`${at}/strategy.json`)).value!;
  const { result } = backtest(strategy, settings, bars);
  const { run } = prepareBacktest(strategy, settings, bars);
  const figure = (figures: Float64Array, key: string) => figures[METRIC_KEYS.indexOf(key)];

  it.each([1, 3, 7])("are those of the trades that are left, counted from the list: without %i", (count) => {
    const figures = wholeFigures(simulate(run!), "all", count);
    const nets = result!.trades.filter((trade) => !trade.open).map((trade) => trade.net);
    const gone = [...nets].sort((a, b) => b - a).slice(0, count);
    const left = [...nets];
    for (const net of gone) left.splice(left.indexOf(net), 1);
    const sum = (some: number[]) => some.reduce((total, net) => total + net, 0);
    expect(figure(figures, "trades")).toBe(nets.length - count);
    expect(figure(figures, "netProfit")).toBeCloseTo(result!.metrics.all.netProfit! - sum(gone), 6);
    expect(figure(figures, "largestWin")).toBe(Math.max(...left));
    expect(figure(figures, "profitFactor")).toBeCloseTo(sum(left.filter((net) => net > 0)) / -sum(left.filter((net) => net < 0)), 9);
    expect(figure(figures, "averageTrade")).toBeCloseTo(sum(left) / left.length, 6);
    // the equity at every close has no best trades to leave out
    expect(figure(figures, "sharpe")).toBeNaN();
    expect(figure(figures, "maxDrawdown")).toBeNaN();
  });

  it("have nothing left where all trades are gone", () => {
    const figures = wholeFigures(simulate(run!), "all", 10_000);
    expect(figure(figures, "trades")).toBe(0);
    expect(figure(figures, "profitFactor")).toBeNaN();
  });
});
