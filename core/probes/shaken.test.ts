import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Random } from "#core/random";
import { backtest, prepareBacktest } from "#core/runs";
import { confidence, shareReaching } from "./confidence";
import { METRIC_KEYS } from "#core/metrics";
import { dealt, decksOf, type Deck } from "./random-entries";
import { shakenValues } from "./shaken-parameters";
import { drawn, tradeReturns, walked } from "./shuffled-trades";
import { contextOf, flatBars, got, outcomeOf, run, settingsOf, strategyOf } from "./testing";

const prepared = (context = contextOf()) => prepareBacktest(context.strategy, context.settings, context.bars).run!;

describe("parameters shaken", () => {
  const shake = (input: object, more: object = {}) => ({
    run: prepared(contextOf({ strategy: strategyOf(more) })),
    parameters: strategyOf(more).parameters!,
    fault: null,
    input: { runs: 100, probability: 100, share: 20, of: "value" as const, factor: 1, seed: 1, criteria: {}, ...input },
  });

  it("moves a whole number within its share, to whole numbers, and not beyond its range", () => {
    const seen = new Set<number>();
    for (let k = 1; k < 400; k++) seen.add(shakenValues(shake({}), k).length);
    expect([...seen].sort((a, b) => a - b)).toEqual([16, 17, 18, 19, 20, 21, 22, 23, 24]);
    const wide = new Set<number>();
    for (let k = 1; k < 800; k++) wide.add(shakenValues(shake({ share: 100, of: "range" }), k).length);
    expect([Math.min(...wide), Math.max(...wide)]).toEqual([5, 60]);
  });

  it("leaves a parameter alone as often as it is told to", () => {
    const still = Array.from({ length: 2000 }, (_, k) => shakenValues(shake({ probability: 30, share: 50 }), k).length).filter(
      (x) => x === 20,
    );
    // 70 of 100 unmoved, and one in about 21 of the others by rounding
    expect(still.length / 2000).toBeGreaterThan(0.67);
    expect(still.length / 2000).toBeLessThan(0.76);
  });

  it("computes each run as a backtest with those values would", () => {
    const outcome = outcomeOf("shakenParameters", { runs: 20, share: 50, criteria: { share: 50, kept: 10 } });
    const nets = Array.from({ length: 20 }, (_, k) => {
      const { length } = shakenValues(shake({ share: 50, probability: 80 }), k + 1);
      const strategy = strategyOf({ parameters: [{ name: "length", kind: "whole", value: length }] });
      const { result } = backtest(strategy, settingsOf(), contextOf().bars);
      return result!.metrics.all.netPercent!;
    });
    const spread = outcome.drawings[0] as { values: number[] };
    const sorted = nets.sort((a, b) => a - b);
    expect(spread.values.length).toBe(20);
    spread.values.forEach((x, k) => expect(x).toBeCloseTo(sorted[k], 9));
  });

  it("refuses a version without numbers, and a share of ranges that are not there", () => {
    const bare = strategyOf({
      parameters: [],
      long: { enter: { when: "close > sma(close, 9)" }, exit: { when: "close < sma(close, 9)" } },
    });
    expect(run("shakenParameters", { criteria: { share: 1 } }, contextOf({ strategy: bare })).problems[0].path).toBe("strategy.parameters");
    const open = strategyOf({ parameters: [{ name: "length", kind: "whole", value: 20 }] });
    expect(run("shakenParameters", { of: "range", criteria: { share: 1 } }, contextOf({ strategy: open })).problems[0].message).toContain(
      "length: no range is set",
    );
  });
});

describe("what shares of runs reach", () => {
  const figures = (net: number, factor: number | null, drawdown = 0) =>
    METRIC_KEYS.map((key) =>
      key === "netPercent" ? net : key === "profitFactor" ? factor : key === "maxDrawdownPercent" ? drawdown : key === "winners" ? 1 : null,
    );

  it("is the value that so many are at least as good as", () => {
    const runs = Array.from({ length: 101 }, (_, k) => figures(k, 1, k));
    const table = confidence(runs, figures(7, 1), ["netPercent", "maxDrawdownPercent", "sharpe"]);
    expect(table.rows[0]).toEqual({ metric: "netPercent", real: 7, values: [50, 20, 10, 5, 1] });
    expect(table.rows[1].values).toEqual([50, 80, 90, 95, 99]);
    expect(table.rows[2].values).toEqual([null, null, null, null, null]);
  });

  it("counts runs without losers as reaching any factor", () => {
    expect(shareReaching([figures(1, null), figures(1, 0.9), figures(1, 1.1), figures(1, 1.2)], 1.1)).toBe(75);
  });
});

describe("trades shuffled", () => {
  it("come to the closed balance whatever their order", () => {
    const own = prepared();
    const returns = Float64Array.from(tradeReturns(own));
    const { result } = backtest(strategyOf(), settingsOf(), contextOf().bars);
    const { balance } = result!.equity;
    expect(walked(returns, returns.length, null).net).toBeCloseTo(100 * (balance[balance.length - 1] / 100_000 - 1), 8);
    const out = new Float64Array(returns.length);
    for (let k = 0; k < 20; k++) {
      drawn(returns, "order", { block: 1, leftOut: 0 }, new Random(1, k), out);
      expect(walked(out, out.length, null).net).toBeCloseTo(walked(returns, returns.length, null).net, 8);
      expect(Array.from(out).sort()).toEqual(Array.from(returns).sort());
    }
  });

  it("fall as deep as by hand", () => {
    // 1 → 1.5 → 0.75 → 0.9: a fall of a half
    expect(walked(Float64Array.of(0.5, -0.5, 0.2), 3, null)).toEqual({ net: expect.closeTo(-10, 10) as number, fall: 50 });
    expect(walked(Float64Array.of(-1.2, 0.5), 2, null)).toEqual({ net: -100, fall: 100 });
  });

  it("keep blocks together and leave out as many as asked, the rest in its order", () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 60 }), fc.integer({ min: 1, max: 10 }), fc.integer(), (n, block, seed) => {
        const returns = Float64Array.from({ length: n }, (_, k) => k);
        const out = new Float64Array(n);
        expect(drawn(returns, "blocks", { block, leftOut: 0 }, new Random(seed), out)).toBe(n);
        for (let i = 1; i < n; i++) if (i % block !== 0) expect(out[i]).toBe((out[i - 1] + 1) % n);
        const kept = drawn(returns, "leftOut", { block, leftOut: 25 }, new Random(seed), out);
        expect(kept).toBe(n - Math.round(n / 4));
        for (let i = 1; i < kept; i++) expect(out[i]).toBeGreaterThan(out[i - 1]);
        drawn(returns, "replacement", { block, leftOut: 0 }, new Random(seed), out);
        expect(out.every((x) => Number.isInteger(x) && x >= 0 && x < n)).toBe(true);
      }),
    );
  });

  it("are refused where there are too few", () => {
    const never = strategyOf({ long: { enter: { when: "close > 1000000" } } });
    expect(run("shuffledTrades", { criteria: { ruin: 1 } }, contextOf({ strategy: never })).problems[0].message).toContain(
      "0 closed trades",
    );
  });
});

describe("random entries", () => {
  it("earn just their costs, with the sign turned, where prices stand still", () => {
    const deck: Deck = {
      open: new Float64Array(100).fill(50),
      first: 0,
      end: 100,
      trades: [
        { side: 1, rows: 3, worth: 1000, costs: 2 },
        { side: -1, rows: 5, worth: 500, costs: 1 },
      ],
      apart: true,
    };
    for (let k = 0; k < 50; k++) expect(dealt(deck, new Random(7, k))).toBeCloseTo(-3, 12);
  });

  it("earn what the real ones do where every bar grows as much", () => {
    const open = Float64Array.from({ length: 200 }, (_, k) => 100 * 1.01 ** k);
    const deck: Deck = {
      open,
      first: 20,
      end: 180,
      trades: [10, 4, 7].map((rows) => ({ side: 1, rows, worth: 1000, costs: 0 })),
      apart: true,
    };
    const each = [10, 4, 7].reduce((sum, rows) => sum + 1000 * (1.01 ** rows - 1), 0);
    for (let k = 0; k < 50; k++) expect(dealt(deck, new Random(2, k))).toBeCloseTo(each, 8);
  });

  it("never overlap and stay inside the window", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 8 }), fc.integer(), (lengths, seed) => {
        const asked: number[] = [];
        const open = new Proxy(new Float64Array(100).fill(1), {
          get: (all, key) => (typeof key === "string" && /^\d+$/.test(key) ? (asked.push(Number(key)), 1) : Reflect.get(all, key)),
        });
        dealt(
          { open, first: 10, end: 90, trades: lengths.map((rows) => ({ side: 1, rows, worth: 1, costs: 0 })), apart: true },
          new Random(seed),
        );
        const spans = Array.from({ length: asked.length / 2 }, (_, k) => [asked[2 * k + 1], asked[2 * k]]);
        for (const [from, to] of spans) expect(from >= 10 && to <= 89 && to > from).toBe(true);
        for (let k = 1; k < spans.length; k++) expect(spans[k][0]).toBeGreaterThanOrEqual(spans[k - 1][1]);
      }),
    );
  });

  it("take the real trades as they were", () => {
    const own = prepared();
    const { result } = backtest(strategyOf(), settingsOf(), contextOf().bars);
    const { decks, net } = decksOf(own);
    expect(decks[0].trades.length).toBe(result!.metrics.all.trades);
    expect(decks[0].apart).toBe(true);
    expect(net).toBeCloseTo(result!.metrics.all.netProfit!, 6);
  });

  it("are beaten by one who buys before every rise", () => {
    // up for five days, down for five
    const prices = [100];
    for (let k = 1; k < 600; k++) prices.push(prices[k - 1] * (k % 10 < 5 ? 1.02 : 1 / 1.02));
    const strategy = strategyOf({
      parameters: [],
      long: { enter: { when: "close > close 1 back and close 1 back < close 2 back" }, exit: { when: "close < close 1 back" } },
    });
    const context = contextOf({ strategy, bars: [flatBars(prices)], settings: settingsOf({ costs: {} }) });
    const outcome = outcomeOf("randomEntries", { runs: 500, criteria: { better: 95 } }, context);
    expect(got(outcome, "better")).toBeGreaterThan(99);
    expect(outcome.verdict).toBe("passed");
  });
});

describe("data shaken", () => {
  it.each(["noise", "start", "drawn"])("%s: the same for the same seed, other for another one", (way) => {
    const given = { way, runs: 12, seed: 5, criteria: { share: 10, kept: 0 } };
    const first = outcomeOf("shakenData", given);
    expect(outcomeOf("shakenData", given)).toEqual(first);
    expect(outcomeOf("shakenData", { ...given, seed: 6 }).drawings).not.toEqual(first.drawings);
  });

  it("without any noise to speak of is the real history", () => {
    const outcome = outcomeOf(
      "shakenData",
      { way: "noise", noise: 0.1, runs: 10, criteria: { share: 10 } },
      contextOf({ settings: settingsOf({ markets: [{ symbol: "FERRY", bars: "x", timeframe: "1d", tick: 0.25 }] }) }),
    );
    const spread = outcome.drawings[0] as { values: number[]; marks: { value: number }[] };
    // a thousandth of the range is less than half a tick on nearly every bar
    for (const value of spread.values) expect(Math.abs(value - spread.marks[0].value)).toBeLessThan(6);
  });

  it("refuses a start that leaves nothing to trade", () => {
    expect(run("shakenData", { way: "start", latest: 9000, criteria: { share: 1 } }).problems[0].path).toBe("latest");
  });
});
