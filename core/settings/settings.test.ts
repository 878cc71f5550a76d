import { describe, expect, it } from "vitest";
import { marketSpec } from "#core/bars";
import { NO_COSTS, readSettings, type SettingsMarket } from "#core/documents";
import { applySaved, READY_MADE_SETTINGS, readSavedSettings, settingDifferences, settingFacts, timesCosts, type KnownMarket } from ".";

const hand = readSettings({
  format: "canyon.settings/1",
  markets: [{ symbol: "KELP", bars: "k", timeframe: "1h" }],
  capital: 100_000,
  currency: "SKR",
  from: "2010-01-01",
  marketLimit: 4,
  costs: { perUnit: 2, spreadTicks: 1, financingLongPercent: 3 },
  benchmark: "KELP",
}).value!;
const serves =
  (market: SettingsMarket, ...timeframes: string[]) =>
  (timeframe: string) =>
    timeframes.includes(timeframe) ? market : null;
const peat: SettingsMarket = { ...marketSpec({ symbol: "PEAT" }), bars: "p", timeframe: "1d" };
const minutes: SettingsMarket = { ...hand.markets[0], bars: "k minutes", timeframe: "1m" };
const known: Record<string, KnownMarket> = {
  KELP: {
    serving: (timeframe) => (timeframe === "1d" || timeframe === "1h" ? hand.markets[0] : minutes),
    finest: "1m",
    costs: { ...NO_COSTS, perOrder: 7 },
    currency: "SKR",
  },
  PEAT: { serving: serves(peat, "1h", "1d", "1w"), finest: "1d", costs: { ...NO_COSTS, slippageTicks: 1 }, currency: "GLD" },
};
const know = (symbol: string) => known[symbol] ?? null;
const apply = (saved: object, timeframe = "1h") => applySaved(readSavedSettings(saved).value!, hand, timeframe, know);

describe("saved run settings", () => {
  it("change what they say and leave the rest as at hand", () => {
    expect(apply({ capital: 5000 }).settings).toEqual({ ...hand, capital: 5000 });
    expect(apply({ dates: {} }).settings).toEqual({ ...hand, from: null, to: null });
    expect(apply({ marketLimit: "none", intrabar: "path" }).settings).toEqual({ ...hand, marketLimit: null, intrabar: "path" });
    expect(apply({ marketLimit: 2, closeAtEnd: true }).settings).toEqual({ ...hand, marketLimit: 2, closeAtEnd: true });
  });

  it("multiply costs, but not financing, which is a rate of the market", () => {
    expect(apply({ costs: { of: "hand", times: 2 } }).settings!.costs).toEqual({ ...hand.costs, perUnit: 4, spreadTicks: 2 });
    expect(apply({ costs: { of: "hand", times: 0 } }).settings!.costs).toEqual(NO_COSTS);
    expect(apply({ costs: { of: "market", times: 3 } }).settings!.costs).toEqual({ ...NO_COSTS, perOrder: 21 });
    expect(timesCosts(hand.costs, 1)).toEqual(hand.costs);
  });

  it("take other markets with their currency, and a benchmark that is among them", () => {
    const { settings } = apply({ markets: ["PEAT"], costs: { of: "market", times: 1 } });
    expect(settings!.markets).toEqual([peat]);
    expect([settings!.currency, settings!.benchmark, settings!.costs.slippageTicks]).toEqual(["GLD", "PEAT", 1]);
    expect(apply({ markets: ["NOPE"] }).problems).toEqual([
      { path: "markets", message: "there is no market NOPE; it may have been taken out" },
    ]);
  });

  it("find the finest bars that all markets have, or say that there are none", () => {
    const { settings } = apply({ fineTimeframe: "finest" });
    // with the bars of the source that has them
    expect([settings!.fineTimeframe, settings!.markets[0].bars]).toEqual(["1m", "k minutes"]);
    expect(apply({ fineTimeframe: "none" }).settings!.markets[0].bars).toBe("k");
    expect(apply({ fineTimeframe: "finest" }, "1m").problems[0].message).toBe("there are no bars finer than the strategy's 1m");
    expect(apply({ fineTimeframe: "finest", markets: ["KELP", "PEAT"] }).problems[0].path).toBe("fineTimeframe");
    expect(apply({ fineTimeframe: "5m" }).settings!.fineTimeframe).toBe("5m");
    expect(apply({ fineTimeframe: "5m", markets: ["PEAT"] }).problems).toEqual([
      { path: "fineTimeframe", message: "PEAT has no bars for 5m" },
    ]);
  });

  it.each([
    [{}, "", "fix nothing yet"],
    [{ capital: 0 }, "capital", "above 0"],
    [{ capital: "much" }, "capital", "must be a number"],
    [{ markets: [] }, "markets", "at least one market"],
    [{ markets: ["A", "A"] }, "markets[1]", "stands twice"],
    [{ marketLimit: 0 }, "marketLimit", "at least 1"],
    [{ marketLimit: "few" }, "marketLimit", "or none"],
    [{ dates: { from: "2020-01-01", to: "2019-01-01" } }, "dates.to", "lies before the first"],
    [{ dates: { from: "soon" } }, "dates.from", "must be a date"],
    [{ costs: { of: "hand" } }, "costs.times", "a multiple goes with"],
    [{ costs: { of: "figures", times: 2 } }, "costs.figures", "figures go with"],
    [{ costs: { of: "hand", times: -1 } }, "costs.times", "must not be negative"],
    [{ costs: { of: "figures", figures: { ...NO_COSTS, perUnit: -1 } } }, "costs.figures.perUnit", "must not be negative"],
    [{ fineTimeframe: "soon" }, "fineTimeframe", "none, finest, or a timeframe"],
    [{ intrabar: "kind" }, "intrabar", ""],
    [{ broker: "x" }, "broker", "isn't a key here"],
  ])("are refused at their place: %j", (given, path, message) => {
    const { problems } = readSavedSettings(given);
    expect(problems[0]?.path).toBe(path);
    expect(problems[0].message).toContain(message);
  });

  it("are told in words, and so is what changed between two", () => {
    const saved = readSavedSettings({
      capital: 250_000,
      dates: { from: "2010-01-01" },
      costs: { of: "figures", figures: { ...NO_COSTS, perUnit: 0.5, slippageTicks: 2 } },
      fineTimeframe: "finest",
    }).value!;
    expect(settingFacts(saved)).toEqual([
      { what: "dates", says: "from 2010-01-01" },
      { what: "capital", says: "250,000" },
      { what: "costs", says: "0.5 a unit, slippage 2 ticks" },
      { what: "decided by finer bars", says: "the finest there are" },
    ]);
    expect(settingDifferences(saved, { ...saved, capital: 100_000, dates: undefined, intrabar: "optimistic" })).toEqual([
      { what: "dates", before: "from 2010-01-01", now: null },
      { what: "capital", before: "250,000", now: "100,000" },
      { what: "stop and target in one bar", before: null, now: "in doubt, the target came first" },
    ]);
    expect(settingDifferences(saved, saved)).toEqual([]);
  });

  it("that ship are read, told and applied without a fault", () => {
    for (const { key, saved } of READY_MADE_SETTINGS) {
      expect([key, readSavedSettings(saved).problems]).toEqual([key, []]);
      expect(settingFacts(saved).length).toBeGreaterThan(0);
      expect([key, apply(saved).problems]).toEqual([key, []]);
    }
  });
});
