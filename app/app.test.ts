import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { MarketView } from "#server/markets";
import { NO_COSTS, type Strategy } from "#core/documents";
import { marketSpec } from "#core/bars";
import { percentFalls, thin } from "#core/reading";
import { timeLabel, timeTicks } from "./charts/time-axis";
import { decimal, duration, metricText, price, signed, tickDigits } from "./design/format";
import { boundsFrom } from "./optimizations/limit-form";
import { methodFault, methodFrom, methodTrials, START_METHOD } from "./optimizations/method-state";
import { axisCount, startAxis, trialCount, varyOf } from "./optimizations/setup-state";
import { rebalance } from "./portfolios/builder-state";
import { settingsOf, startSettings, stateOfSettings, toAddress, withAddress } from "./runs/settings-state";
import { differences, differencesInWords } from "#core/wording";

describe("figures", () => {
  it("have a true minus, separated thousands and no negative zero", () => {
    expect(decimal(-1234.5, 1)).toBe("−1,234.5");
    expect(decimal(-0.001, 2)).toBe("0.00");
    expect(decimal(null, 2)).toBe("–");
    expect(signed(12, 0)).toBe("+12");
    expect(signed(0.001, 2)).toBe("0.00");
  });
  it("show a price as its tick says, and more where it lies between ticks", () => {
    expect(tickDigits(0.25)).toBe(2);
    expect(price(101.5, 0.5)).toBe("101.5");
    expect(price(101.625, 0.5)).toBe("101.625");
    expect(price(7, 1)).toBe("7");
  });
  it("show metrics in their units", () => {
    expect(metricText("winRate", 0.352)).toBe("35.2");
    expect(metricText("netProfit", 1234.4)).toBe("+1,234");
    expect(metricText("profitFactor", null)).toBe("–");
    expect(duration(3725)).toBe("1:02:05");
    expect(duration(65.4)).toBe("1:05");
  });
});

describe("charts", () => {
  it("thinning keeps first, last, lowest and highest", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -1000, max: 1000 }), { minLength: 1, maxLength: 4000 }), (y) => {
        const x = y.map((_, i) => i);
        const points = thin(x, y, 20);
        expect(points[0]).toEqual({ x: 0, y: y[0] });
        expect(points.at(-1)).toEqual({ x: y.length - 1, y: y.at(-1) });
        expect(Math.max(...points.map((p) => p.y))).toBe(Math.max(...y));
        expect(Math.min(...points.map((p) => p.y))).toBe(Math.min(...y));
        for (let i = 1; i < points.length; i++) expect(points[i].x).toBeGreaterThan(points[i - 1].x);
      }),
    );
  });
  it("ticks lie inside the range, in order, and not too many", () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 20_000 }), fc.integer({ min: 2, max: 12_000 }), (start, days) => {
        const [min, max] = [start * 86_400_000, (start + days) * 86_400_000];
        const ticks = timeTicks(min, max);
        expect(ticks.length).toBeLessThan(20);
        for (const [i, tick] of ticks.entries()) {
          expect(tick).toBeGreaterThanOrEqual(min);
          expect(tick).toBeLessThanOrEqual(max);
          if (i > 0) expect(tick).toBeGreaterThan(ticks[i - 1]);
        }
      }),
    );
    expect(timeLabel(Date.UTC(2020, 0, 1), 1e12)).toBe("2020");
    expect(timeLabel(Date.UTC(2020, 4, 1), 1e10)).toBe("May");
  });
  it("falls are measured from the peak, which starts at the capital", () => {
    expect([...percentFalls([90, 110, 99], 100)]).toEqual([-10, 0, -10]);
  });
});

describe("run settings", () => {
  const market = {
    symbol: "X",
    currency: "SKR",
    spec: marketSpec({ symbol: "X" }),
    costs: { ...NO_COSTS, spreadTicks: 2 },
    barsHash: "h",
    timeframe: "1d",
  } as MarketView;

  it("start from the market's own costs and go into the address and back", () => {
    const base = startSettings(market);
    expect(base.spreadTicks).toBe("2");
    const changed = { ...base, capital: "5000", from: "2020-01-01" };
    const address = toAddress(changed, base, new URLSearchParams("v=3"));
    expect(address.toString()).toBe("v=3&from=2020-01-01&capital=5000");
    expect(withAddress(base, address)).toEqual(changed);
    expect(toAddress(base, base, address).toString()).toBe("v=3");
  });
  it("become a document and come back from it", () => {
    const state = { ...startSettings(market), closeAtEnd: "yes", intrabar: "optimistic" };
    const { settings } = settingsOf(state, market);
    expect(settings).toMatchObject({ capital: 250_000, closeAtEnd: true, benchmark: "X" });
    expect(stateOfSettings(settings!)).toEqual(state);
  });
  it("say by field what is wrong", () => {
    const wrong = (change: object) => settingsOf({ ...startSettings(market), ...change }, market).problems.map((p) => p.path);
    expect(wrong({ capital: "much" })).toEqual(["capital"]);
    expect(wrong({ capital: "-5" })).toEqual(["capital"]);
    expect(wrong({ from: "2021-01-01", to: "2020-01-01" })).toEqual(["to"]);
    expect(settingsOf({ ...startSettings(market), market: "GONE" }, undefined).problems[0].message).toContain("may have been deleted");
  });
});

describe("weights", () => {
  it("always add up to 1, and the one moved is what was asked", () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 100 }), { minLength: 2, maxLength: 7 }),
        fc.nat(6),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (raw, index, to) => {
          const at = index % raw.length;
          const out = rebalance(
            raw.map((x) => x / 100),
            at,
            to,
          );
          expect(out.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 12);
          expect(out[at]).toBeCloseTo(Math.round(to * 1000) / 1000, 12);
          for (const weight of out) expect(weight).toBeGreaterThanOrEqual(0);
        },
      ),
    );
  });
});

describe("set-ups", () => {
  it("count trials as they are typed", () => {
    const axis = startAxis({ name: "n", kind: "whole", value: 20, min: 5, max: 50, step: 5 }, true);
    expect(axisCount(axis)).toBe(10);
    expect(trialCount([axis, { ...axis, to: "14" }])).toBe(20);
    expect(trialCount([{ ...axis, varied: false }])).toBe(null);
    for (const change of [{ step: "0" }, { from: "60" }, { to: "x" }]) expect(axisCount({ ...axis, ...change })).toBe(null);
  });
  it("take values one by one, and yes and no", () => {
    const axis = { ...startAxis({ name: "n", kind: "whole", value: 20 }, true), list: "5, 10 50" };
    expect(axisCount(axis)).toBe(3);
    expect(varyOf(axis)).toEqual({ name: "n", values: [5, 10, 50] });
    expect(axisCount({ ...axis, list: "5 x" })).toBe(null);
    expect(axisCount({ ...axis, list: " " })).toBe(null);
    const quiet = startAxis({ name: "quiet", kind: "yesNo", value: false }, true);
    expect(varyOf(quiet)).toEqual({ name: "quiet", values: [false, true] });
    expect(trialCount([axis, quiet])).toBe(6);
    expect(varyOf({ ...axis, list: null, from: "1,5", to: "3", step: "0.5" })).toEqual({ name: "n", from: 1.5, to: 3, step: 0.5 });
  });
  it("keep limits that hold a number", () => {
    expect(boundsFrom([{ metric: "trades", least: "30", most: "" }])).toEqual([{ metric: "trades", least: 30, most: null }]);
    expect(boundsFrom([])).toEqual([]);
    expect(boundsFrom([{ metric: "trades", least: "", most: "" }])).toBe(null);
    expect(boundsFrom([{ metric: "trades", least: "many", most: "" }])).toBe(null);
  });
  it("count what a method makes of the combinations", () => {
    expect(methodTrials({ ...START_METHOD, kind: "random", trials: "90" }, 1000)).toBe(90);
    expect(methodTrials({ ...START_METHOD, kind: "evolution" }, 1000)).toBe(1000);
    expect(methodTrials({ ...START_METHOD, kind: "evolution" }, 100_000)).toBe(1800);
    expect(methodFrom({ ...START_METHOD, kind: "sobol", trials: "64" })).toEqual({ kind: "sobol", trials: 64 });
    expect(methodFault({ ...START_METHOD, kind: "refine", coarse: "x" })!.path).toBe("places between");
    expect(methodFault(START_METHOD)).toBe(null);
  });
});

describe("differences between versions", () => {
  it("are told by name, in the order of the later one", () => {
    const before: Strategy = {
      format: "canyon.strategy/1",
      timeframe: "1d",
      sizing: { mode: "units", value: 1 },
      parameters: [{ name: "fast", kind: "whole", value: 5 }],
      long: { enter: { when: "close > 1" } },
    };
    const now: Strategy = {
      ...before,
      parameters: [{ name: "fast", kind: "whole", value: 8 }],
      protect: { stop: { unit: "atr", value: 2 } },
    };
    expect(differences(before, now)).toEqual([
      { what: "fast", before: "5", now: "8" },
      { what: "stop loss", before: null, now: "2 × ATR of 14 bars" },
    ]);
    expect(differences(before, before)).toEqual([]);
    expect(differencesInWords(differences(before, now))).toBe("fast 5 → 8; stop loss 2 × ATR of 14 bars added");
    expect(differencesInWords(differences(now, before))).toBe("fast 8 → 5; stop loss taken out");
  });
});
