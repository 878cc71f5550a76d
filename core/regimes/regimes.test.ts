import { describe, expect, it } from "vitest";
import { readSettings, readStrategy } from "#core/documents";
import { compileStrategy, prepareRun, simulate } from "#core/engine";
import { backtest, prepareBacktest, runMarkets } from "#core/runs";
import { emptyBars, parseTimeframe, type Bars } from "#core/bars";
import { fixtureBars } from "#core/testing/fixtures";
import { divided, regimeDays, statesBefore, switched, switching, yesStretches } from ".";

/** Bars of two markets on the days on which both have one: who has none can't leave on that day. */
function shared(a: Bars, b: Bars): Bars[] {
  const both = new Set([...a.time].filter((time) => b.time.includes(time)));
  return [a, b].map((own) => {
    const rows = Array.from(own.time, (_, k) => k).filter((k) => both.has(own.time[k]));
    const made = emptyBars(rows.length);
    for (const key of ["time", "open", "high", "low", "close", "volume"] as const) rows.forEach((row, k) => (made[key][k] = own[key][row]));
    return made;
  });
}
const bars = shared(fixtureBars("data/ferry-1d.csv"), fixtureBars("data/kelp-1d.csv"));
const settings = readSettings({
  format: "canyon.settings/1",
  markets: ["FERRY", "KELP"].map((symbol) => ({ symbol, bars: symbol, timeframe: "1d", tick: 0.25 })),
  capital: 1_000_000,
}).value!;
const day = parseTimeframe("1d")!;
const RULE = "close of FERRY > sma(close of FERRY, 50)";

describe("a condition that divides time", () => {
  const market = runMarkets(settings, bars, day)[0];
  const regime = regimeDays(market, "close > sma(close, 50)").value!;

  it("says at every close what the average says", () => {
    const { close } = market.bars;
    for (let row = 60; row < close.length; row += 97) {
      const average = close.slice(row - 49, row + 1).reduce((a, b) => a + b, 0) / 50;
      expect(regime.said[row]).toBe(close[row] > average ? 1 : 0);
    }
    // a comparison with something missing says no
    expect(regime.said[10]).toBe(0);
  });

  it("counts only what was known before a day, and leaves no day out", () => {
    const returns = market.bars.close.map((x, k) => (k === 0 ? 0 : x / market.bars.close[k - 1] - 1));
    const states = statesBefore(market.dates, regime);
    for (let k = 100; k < 200; k++) expect(states[k]).toBe(regime.said[k - 1]);
    const { yes, no, all, unknown } = divided(market.dates, returns, regime, 252);
    expect(yes.days + no.days + unknown).toBe(all.days);
    expect(unknown).toBe(1);
    const known = returns.slice(1).reduce((value, r) => value * (1 + r), 1);
    expect((1 + yes.netPercent / 100) * (1 + no.netPercent / 100)).toBeCloseTo(known, 9);
    expect(all.netPercent).toBeCloseTo(100 * (market.bars.close.at(-1)! / market.bars.close[0] - 1), 6);
  });

  it("gives stretches that hold all days of yes and no other", () => {
    const stretches = yesStretches(regime);
    const inside = (date: number) => stretches.some(({ from, to }) => from <= date && date <= to);
    regime.dates.forEach((date, k) => expect(inside(date)).toBe(regime.said[k] === 1));
  });

  it("is refused with its place where it can't be read or is no condition", () => {
    expect(regimeDays(market, "close >").problems[0]).toMatchObject({ line: 1 });
    expect(regimeDays(market, "close").value).toBeNull();
  });
});

describe("a strategy that is switched on and off", () => {
  const strategy = readStrategy({
    format: "canyon.strategy/1",
    timeframe: "1d",
    long: { enter: { when: "close > highest(high, 20) 1 back" }, exit: { when: "close < lowest(low, 10) 1 back" } },
    short: { enter: { when: "close < lowest(low, 20) 1 back" } },
    sizing: { mode: "equityPercent", value: 40 },
  }).value!;

  it.each(["yes", "no"] as const)("holds nothing while the condition does not say %s, but for the bar that it needs to leave", (when) => {
    const { run } = prepareBacktest(switched(strategy, { rule: RULE, while: when }), settings, bars);
    const { log, legs } = simulate(run!);
    const regime = regimeDays(run!.markets[0], RULE).value!;
    expect(log.count).toBeGreaterThan(10);
    for (let row = 0; row < log.count; row++) {
      const { dates } = legs[log.leg[row]].market;
      const last = log.reason[row] === 0 ? dates.length : log.exitRow[row];
      for (let at = log.entryRow[row]; at < last - 1; at++)
        expect(regime.said[regime.dates.indexOf(dates[at])]).toBe(when === "yes" ? 1 : 0);
    }
  });

  it("trades as before under a condition that always holds", () => {
    const always = backtest(switched(strategy, { rule: "close = close", while: "yes" }), settings, bars).result!;
    expect(always.trades).toEqual(backtest(strategy, settings, bars).result!.trades);
  });
});

describe("switching between two markets", () => {
  it("holds one or the other with all of the account, never both", () => {
    const parts = switching(RULE, "FERRY", "KELP", "1d");
    expect(parts.map(({ name }) => name)).toEqual(["FERRY while yes", "KELP while no"]);
    const members = parts.map(({ name, market, strategy }) => ({
      name,
      compiled: compileStrategy(readStrategy(strategy).value!).value!,
      markets: [market === "FERRY" ? 0 : 1],
      weight: 0.5,
      marketLimit: null,
    }));
    const run = prepareRun(members, settings, runMarkets(settings, bars, day)).value!;
    let [both, held] = [0, 0];
    const { equity, log } = simulate(run, {
      members: true,
      watch: (_t, _equity, legs) => {
        const open = legs.filter((leg) => leg.side !== 0).length;
        if (open === 2) both++;
        if (open === 1) held++;
      },
    });
    expect(both).toBe(0);
    expect(held).toBeGreaterThan(run.clock.times.length * 0.9);
    const first = run.markets[run.members[log.leg[0]].markets[0]];
    const notional = log.units[0] * log.entryPrice[0] * first.spec.pointValue;
    expect(notional / equity[0]).toBeGreaterThan(0.9);
  });

  it("is one member where the other side is cash", () => {
    expect(switching(RULE, "FERRY", null, "1d")).toMatchObject([{ market: "FERRY", strategy: { sizing: { value: 100 } } }]);
  });
});
