import { describe, expect, it } from "vitest";
import { fixtureFolders, fixtureJson } from "#core/testing/fixtures";
import { bareStrategy, fingerprintOf, hashOf, readMarket, readResult, readSettings, readStrategy } from ".";

const strategy = {
  format: "canyon.strategy/1",
  timeframe: "1d",
  sizing: { mode: "units", value: 1 },
  long: { enter: { when: "close > 1" } },
};
const settings = { format: "canyon.settings/1", markets: [{ symbol: "X", bars: "x.csv", timeframe: "1d" }], capital: 1000 };
const paths = (read: { problems: { path: string }[] }) => read.problems.map((p) => p.path);

describe("strategies", () => {
  it("of every case are read", () => {
    for (const folder of fixtureFolders("backtests")) {
      expect(readStrategy(fixtureJson(`backtests/${folder}/strategy.json`)).problems, folder).toEqual([]);
      expect(readSettings(fixtureJson(`backtests/${folder}/settings.json`)).problems, folder).toEqual([]);
    }
  });

  it("are refused with the path of what is wrong", () => {
    expect(paths(readStrategy({ ...strategy, format: "canyon.strategy/2" }))).toEqual(["format"]);
    expect(paths(readStrategy({ ...strategy, colour: 1 }))).toEqual(["colour"]);
    expect(paths(readStrategy({ ...strategy, long: { enter: { when: "close > 1", order: { type: "wish" } } } }))).toEqual([
      "long.enter.order.type",
    ]);
    expect(paths(readStrategy({ ...strategy, protect: { stop: { unit: "atr", value: 2, from: 1 } } }))).toEqual(["protect.stop.from"]);
    expect(paths(readStrategy({ ...strategy, parameters: [{ name: "n", kind: "whole", value: 1, step: 0 }] }))).toEqual([
      "parameters[0].step",
    ]);
    expect(paths(readStrategy({ ...strategy, sizing: { mode: "units", value: "1e", more: 2 } }))).toEqual(["sizing.more"]);
    expect(paths(readStrategy({ ...strategy, timeframe: undefined }))).toEqual(["timeframe"]);
    expect(paths(readStrategy({ ...strategy, entriesAtOnce: 1.5 }))).toEqual(["entriesAtOnce"]);
    expect(paths(readStrategy([]))).toEqual([""]);
    expect(paths(readStrategy(null))).toEqual([""]);
  });

  it("take null for a key that is left out", () => {
    expect(readStrategy({ ...strategy, short: null, protect: { stop: null, trail: null }, priority: null }).value).toEqual({
      ...strategy,
      protect: {},
    });
  });

  it("say sentences, not the library's words", () => {
    const [problem] = readStrategy({ ...strategy, sizing: { mode: "lots", value: 1 } }).problems;
    expect(problem.message).toBe("mode must be one of units, cash, equityPercent, riskPercent, atrPercent, equalShare");
    expect(readStrategy({ ...strategy, sizing: undefined }).problems[0].message).toBe("sizing is required");
  });
});

describe("run settings", () => {
  it("fill in the defaults", () => {
    expect(readSettings(settings).value).toMatchObject({
      leverage: 1,
      onLackOfMargin: "reduce",
      intrabar: "pessimistic",
      closeAtEnd: false,
      markets: [{ tick: 0.01, pointValue: 1, unitStep: 1, minUnits: 1, margin: { mode: "fraction", value: 1 }, session: null }],
    });
  });

  it("are refused with the path of what is wrong", () => {
    expect(paths(readSettings({ ...settings, capital: 0 }))).toEqual(["capital"]);
    expect(paths(readSettings({ ...settings, markets: [] }))).toEqual(["markets"]);
    expect(paths(readSettings({ ...settings, from: "2024-02-30" }))).toEqual(["from"]);
    expect(paths(readSettings({ ...settings, from: "2024-02-20", to: "2024-01-01" }))).toEqual(["to"]);
    expect(paths(readSettings({ ...settings, benchmark: "Y" }))).toEqual(["benchmark"]);
    expect(paths(readSettings({ ...settings, costs: { perUnit: -1 } }))).toEqual(["costs.perUnit"]);
    expect(paths(readSettings({ ...settings, markets: [settings.markets[0], settings.markets[0]] }))).toEqual(["markets[1].symbol"]);
    expect(
      paths(
        readSettings({
          ...settings,
          markets: [{ ...settings.markets[0], session: { zone: "Nowhere/Harbour", open: "9", close: "17:30", days: [8] } }],
        }),
      ).sort(),
    ).toEqual(["markets[0].session.days[0]", "markets[0].session.open", "markets[0].session.zone"]);
  });
});

describe("markets and results", () => {
  it("are read or refused", () => {
    expect(readMarket(fixtureJson("data/market-shorecal.json")).value!.session!.holidays).toEqual(["2019-03-28"]);
    expect(paths(readMarket({ format: "canyon.market/1", symbol: "9X", tick: 0 })).sort()).toEqual(["symbol", "tick"]);
    expect(
      paths(readResult({ format: "canyon.result/1", trades: [], equity: { time: ["x"], equity: [1], balance: [] }, metrics: { all: {} } }))
        .length,
    ).toBeGreaterThan(0);
  });
});

describe("fingerprints", () => {
  const full = {
    ...strategy,
    name: "a",
    notes: "b",
    parameters: [{ name: "n", kind: "whole", value: 1, about: "c" }],
    definitions: [{ name: "d", variants: [{ label: "e", rule: "close" }] }],
  };
  const print = (s: object, t: object = settings) => fingerprintOf([bareStrategy(readStrategy(s).value!)], readSettings(t).value!);

  it("do not hang on names, notes, labels, abouts or the order of keys", () => {
    const other = {
      ...full,
      name: "z",
      notes: undefined,
      parameters: [{ kind: "whole", value: 1, name: "n" }],
      definitions: [{ variants: [{ rule: "close" }], name: "d" }],
    };
    expect(print(other)).toBe(print(full));
  });

  it("change with everything that can change a result", () => {
    expect(print({ ...full, long: { enter: { when: "close > 2" } } })).not.toBe(print(full));
    expect(print(full, { ...settings, capital: 1001 })).not.toBe(print(full));
  });

  it("are SHA-256 of canonical JSON", () => {
    expect(hashOf({ b: 1, a: [true, null, "x"] })).toBe(hashOf({ a: [true, null, "x"], b: 1 }));
    expect(hashOf({})).toBe("44136fa355b3678a1146ad16f7e8649e94fb4fc21fe77e8310c060f61caaff8a");
  });
});
