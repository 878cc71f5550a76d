import { describe, expect, it } from "vitest";
import { readSettings, readStrategy } from "#core/documents";
import { backtest } from "#core/runs";
import { fixtureBars } from "#core/testing/fixtures";
import { outOfSample, PROBES } from ".";

const strategy = readStrategy({
  format: "canyon.strategy/1",
  timeframe: "1d",
  long: { enter: { when: "close > sma(close, 20)" }, exit: { when: "close < sma(close, 20)" } },
  sizing: { mode: "equityPercent", value: 80 },
}).value!;
const settings = readSettings({
  format: "canyon.settings/1",
  markets: [{ symbol: "FERRY", bars: "x", timeframe: "1d" }],
  capital: 100_000,
}).value!;
const bars = [fixtureBars("data/ferry-1d.csv")];
const context = { strategy, settings, bars };
const run = (criteria: object, split = "2017-01-31") => {
  const read = outOfSample.read({ split, criteria });
  return outOfSample.run(read.value!, context);
};

describe("the registry", () => {
  it("names for every probe its question and what its verdict does not say", () => {
    for (const [kind, probe] of PROBES) {
      expect(probe.kind).toBe(kind);
      expect(probe.question).toMatch(/\?$/);
      expect(probe.caution).toMatch(/^It does not say/);
    }
  });
});

describe("out-of-sample", () => {
  it("compares two runs of their own: one up to the split, one after it", () => {
    const { outcome } = run({ trades: 1 });
    const [inside, outside] = outcome!.parts;
    expect(inside.to).toBe("2017-01-31");
    expect(outside.from > "2017-01-31").toBe(true);
    const alone = backtest(strategy, { ...settings, from: "2017-02-01" }, bars).result!;
    expect(outside.metrics).toEqual(alone.metrics.all);
    expect(outcome!.weight).toBe(alone.equity.equity.length);
    expect(outcome!.equity.value.length).toBe(outcome!.equity.date.length);
  });

  it("passes only if every criterion holds", () => {
    const { metrics } = run({ trades: 1 }).outcome!.parts[1];
    const factor = metrics.profitFactor!;
    expect(run({ profitFactor: factor, trades: metrics.trades! }).outcome!.verdict).toBe("passed");
    expect(run({ profitFactor: factor + 0.01, trades: metrics.trades! }).outcome!.verdict).toBe("failed");
    expect(run({ profitFactor: factor, trades: metrics.trades! + 1 }).outcome!.verdict).toBe("failed");
  });

  it("measures what is kept of the in-sample CAGR ÷ drawdown", () => {
    const { outcome } = run({ keptPercent: 50 });
    const [inside, outside] = outcome!.parts.map((part) => part.metrics.mar!);
    expect(outcome!.criteria[0].got).toBe(inside > 0 ? (100 * outside) / inside : null);
  });

  it("refuses to run without criteria, and a stretch without bars", () => {
    expect(outOfSample.read({ split: "2017-01-31", criteria: {} }).problems[0].message).toContain("at least one criterion");
    expect(outOfSample.read({ split: "31.1.2017", criteria: { trades: 1 } }).problems[0].path).toBe("split");
    expect(outOfSample.read({ split: "2017-01-31", criteria: { luck: 1 } }).problems[0].path).toBe("criteria.luck");
    expect(run({ trades: 1 }, "2030-01-01").problems[0].message).toMatch(/^out-of-sample: there are no bars/);
  });
});
