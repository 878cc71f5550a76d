import { describe, expect, it } from "vitest";
import { readSettings, readStrategy } from "#core/documents";
import { backtest } from "#core/runs";
import { fixtureBars } from "#core/testing/fixtures";
import { runPortfolio, weightProblems, type Member } from ".";

const strategyOf = (more: object = {}) =>
  readStrategy({
    format: "canyon.strategy/1",
    name: "Up",
    timeframe: "1d",
    long: { enter: { when: "close > sma(close, 10)" }, exit: { when: "close < sma(close, 10)" } },
    sizing: { mode: "equityPercent", value: 40 },
    ...more,
  }).value!;
const bars = [fixtureBars("data/ferry-1d.csv"), fixtureBars("data/kelp-1d.csv")];
const settingsOf = (more: object = {}) =>
  readSettings({
    format: "canyon.settings/1",
    markets: ["FERRY", "KELP"].map((symbol) => ({ symbol, bars: symbol, timeframe: "1d", tick: 0.25 })),
    capital: 100_000,
    ...more,
  }).value!;
const member = (name: string, markets: string[] | undefined, weight: number, more: object = {}): Member => ({
  name,
  strategy: strategyOf(more),
  markets,
  weight,
});
const problems = (members: Member[], settings = settingsOf()) =>
  runPortfolio(members, settings, bars).problems.map((p) => `${p.path}: ${p.message}`);

describe("portfolios", () => {
  it("of one member with weight 1 are its run, to the last bit", () => {
    const { result } = runPortfolio([member("only", undefined, 1)], settingsOf(), bars);
    const alone = backtest(strategyOf(), settingsOf(), bars).result!;
    expect(result!.equity).toEqual(alone.equity);
    expect(result!.metrics).toEqual(alone.metrics);
    expect(result!.trades.map(({ member: _member, ...trade }) => trade)).toEqual(alone.trades);
    expect(result!.fingerprint).not.toBe(alone.fingerprint);
  });

  it("give every member its share of the account, and each market in two members is two positions", () => {
    const { result } = runPortfolio([member("a", ["FERRY"], 0.5), member("b", ["FERRY"], 0.5)], settingsOf(), bars);
    const [a, b] = ["a", "b"].map((name) => result!.trades.filter((trade) => trade.member === name));
    expect(a.map((trade) => [trade.entryTime, trade.units])).toEqual(b.map((trade) => [trade.entryTime, trade.units]));
    expect(result!.correlation[0][1]).toBeCloseTo(1, 10);
    expect(result!.members[0].contribution).toEqual(result!.members[1].contribution);
    const most = Math.max(...result!.concentration.map((x) => x ?? 0));
    expect(most).toBeGreaterThan(0.38);
    expect(most).toBeLessThan(0.6);
  });

  it("split profit and deepest drawdown among the members without a rest", () => {
    const { result } = runPortfolio(
      [member("a", ["FERRY"], 0.7), member("b", ["KELP"], 0.3, { onOpposite: "ignore" })],
      settingsOf(),
      bars,
    );
    const sum = (pick: (m: (typeof result & object)["members"][number]) => number) =>
      result!.members.reduce((total, m) => total + pick(m), 0);
    expect(sum((m) => m.contribution.profit)).toBeCloseTo(result!.metrics.all.netPercent!, 9);
    expect(sum((m) => m.contribution.drawdown)).toBeCloseTo(-result!.metrics.all.maxDrawdown!, 6);
    expect(sum((m) => m.metrics.trades!)).toBe(result!.metrics.all.trades);
  });

  it("run on the union of their markets' days", () => {
    const { result } = runPortfolio([member("a", ["FERRY"], 0.5), member("b", ["KELP"], 0.5)], settingsOf(), bars);
    const days = new Set([...bars[0].time, ...bars[1].time]);
    expect(result!.equity.time.length).toBe(days.size);
  });

  it("are refused with what is wrong", () => {
    expect(weightProblems([])[0].message).toContain("at least one member");
    expect(problems([member("a", undefined, 0.5)])).toEqual(["members: the weights must add up to 1; they come to 0.5"]);
    expect(problems([member("a", undefined, 0.5), member("a", undefined, 0.5)])[0]).toContain(
      "members[1].name: the name “a” is given twice",
    );
    expect(problems([member("a", undefined, 1.5), member("b", undefined, -0.5)])[0]).toContain("must not be negative");
    expect(problems([member("a", ["TIDE"], 1)])[0]).toBe("members[0].markets[0]: TIDE isn't one of the settings' markets");
    expect(problems([member("a", undefined, 0.5), member("b", undefined, 0.5, { timeframe: "1w" })])[0]).toContain(
      "all members must have one timeframe",
    );
    expect(problems([member("a", undefined, 1)], settingsOf({ marketLimit: 2 }))[0]).toContain("settings.marketLimit");
    expect(problems([member("a", undefined, 1, { long: { enter: { when: "close > fast" } } })])[0]).toContain(
      "members[0].strategy.long.enter.when",
    );
    expect(problems([member("a", undefined, 1)], settingsOf({ from: "2050-01-01" }))[0]).toContain("settings.from: there are no bars");
  });
});
