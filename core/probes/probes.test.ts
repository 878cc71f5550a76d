import { describe, expect, it } from "vitest";
import { backtest } from "#core/runs";
import { METRICS } from "#core/metrics";
import { PROBES, readInput, runProbe } from ".";
import { contextOf, flatBars, got, outcomeOf, run, settingsOf, strategyOf } from "./testing";

const whole = (context = contextOf()) => backtest(context.strategy, context.settings, context.bars).result!;

describe("the registry", () => {
  it("names for every probe its question, what its verdict does not say, and what it can be judged by", () => {
    for (const [kind, probe] of PROBES) {
      expect(probe.kind).toBe(kind);
      expect(probe.question).toMatch(/\?$/);
      expect(probe.caution).toMatch(/^It does not say/);
      expect(probe.criteria.length).toBeGreaterThan(0);
      expect(new Set(probe.fields.map(({ key }) => key)).size).toBe(probe.fields.length);
      for (const { from, to, initial } of probe.criteria) if (initial !== null) expect(initial >= from && initial <= to).toBe(true);
    }
    expect(PROBES.size).toBe(14);
  });

  it("fills in what is left out, and refuses what makes no sense at its place", () => {
    const shuffled = PROBES.get("shuffledTrades")!;
    expect(readInput(shuffled, { criteria: { ruin: 2 } }).value).toEqual({
      way: "order",
      runs: 5000,
      block: 5,
      leftOut: 10,
      ruin: 50,
      seed: 1,
      criteria: { ruin: 2 },
    });
    const path = (kind: string, given: object) => readInput(PROBES.get(kind)!, given).problems[0].path;
    expect(path("shuffledTrades", { criteria: {} })).toBe("criteria");
    expect(path("shuffledTrades", { criteria: { ruin: 120 } })).toBe("criteria.ruin");
    expect(path("shuffledTrades", { criteria: { luck: 1 } })).toBe("criteria.luck");
    expect(path("shuffledTrades", { way: "sideways", criteria: { ruin: 1 } })).toBe("way");
    expect(path("shuffledTrades", { runs: 1.5, criteria: { ruin: 1 } })).toBe("runs");
    expect(path("outOfSample", { split: "31.1.2017", criteria: { trades: 1 } })).toBe("split");
    expect(path("otherTimeframes", { timeframes: ["fast"], criteria: { held: 1 } })).toBe("timeframes[0]");
    const search = { vary: [{ name: "length", values: [5, 10] }], objective: [{ metric: "netProfit" }] };
    expect(path("walkForwardMap", { search, windows: [4, 4], criteria: { depth: 1 } })).toBe("windows");
    expect(path("walkForwardMap", { search: {}, criteria: { depth: 1 } })).toBe("search.vary");
    expect(path("walkForward", { criteria: { net: 1 } })).toBe("search");
  });
});

describe("out-of-sample", () => {
  const split = "2017-01-31";

  it("compares two runs of their own: one up to the line, one after it", () => {
    const outcome = outcomeOf("outOfSample", { split, criteria: { trades: 1 } });
    const [inside, outside] = outcome.parts;
    expect(inside.to).toBe("2017-01-31");
    expect(outside.from > "2017-01-31").toBe(true);
    const alone = whole(contextOf({ settings: settingsOf({ from: "2017-02-01" }) }));
    expect(outside.metrics).toEqual(alone.metrics.all);
    expect(outcome.weight).toBe(alone.equity.equity.length);
  });

  it("judges the earlier stretch where that is the one held back", () => {
    const [inside, outside] = outcomeOf("outOfSample", { split, side: "earlier", criteria: { trades: 1 } }).parts;
    expect(inside.from > "2017-01-31").toBe(true);
    expect(outside.to).toBe("2017-01-31");
  });

  it("passes only if every criterion holds", () => {
    const { metrics } = outcomeOf("outOfSample", { split, criteria: { trades: 1 } }).parts[1];
    const factor = metrics.profitFactor!;
    const verdict = (criteria: object) => outcomeOf("outOfSample", { split, criteria }).verdict;
    expect(verdict({ profitFactor: factor, trades: metrics.trades! })).toBe("passed");
    expect(verdict({ profitFactor: factor + 0.01, trades: metrics.trades! })).toBe("failed");
    expect(verdict({ profitFactor: factor, trades: metrics.trades! + 1 })).toBe("failed");
    expect(verdict({ drawdown: metrics.maxDrawdownPercent! })).toBe("passed");
    expect(verdict({ drawdown: metrics.maxDrawdownPercent! - 0.01 })).toBe("failed");
  });

  it("measures what is kept of the in-sample CAGR ÷ drawdown", () => {
    const outcome = outcomeOf("outOfSample", { split, criteria: { keptPercent: 50 } });
    const [inside, outside] = outcome.parts.map((part) => part.metrics.mar!);
    expect(got(outcome, "keptPercent")).toBe(inside > 0 ? (100 * outside) / inside : null);
  });

  it("refuses a stretch without bars", () => {
    expect(run("outOfSample", { split: "2030-01-01", criteria: { trades: 1 } }).problems[0].message).toMatch(
      /^out-of-sample: there are no bars/,
    );
  });
});

describe("the sealed hold-out", () => {
  it("is one run behind the seal, beside one before it", () => {
    const context = contextOf();
    const sealed = { name: "behind the seal", settings: settingsOf({ from: "2017-06-01" }), bars: context.bars };
    const { parts } = outcomeOf("holdOut", { criteria: { trades: 1 } }, { ...context, others: [sealed] });
    expect(parts[1].metrics).toEqual(whole(contextOf({ settings: sealed.settings })).metrics.all);
    expect(parts[0].to < "2017-06-01").toBe(true);
  });

  it("says so where there is no seal", () => {
    expect(run("holdOut", { criteria: { trades: 1 } }).problems[0].message).toContain("no market of these has a seal");
  });
});

describe("costs raised", () => {
  it("finds the multiple at which a fixed number of units earns nothing: gross ÷ costs", () => {
    const fixed = strategyOf({ sizing: { mode: "units", value: 100 } });
    const settings = (perOrder: number) => settingsOf({ leverage: 100, costs: { perOrder } });
    const rising = flatBars(Array.from({ length: 900 }, (_, k) => 200 + 0.1 * k + 12 * Math.sin(k / 9)));
    const context = contextOf({ strategy: fixed, settings: settings(20), bars: [rising] });
    const { trades } = whole(context);
    const gross = trades.reduce((sum, trade) => sum + trade.gross, 0);
    const costs = trades.reduce((sum, trade) => sum + trade.costs, 0);
    expect(gross).toBeGreaterThan(costs);
    expect(gross / costs).toBeLessThan(100);
    const outcome = outcomeOf("raisedCosts", { most: 100, step: 10, at: 2, criteria: { edge: 1, profitFactor: 1 } }, context);
    expect(got(outcome, "edge")).toBeCloseTo(gross / costs, 9);
    const ladder = outcome.drawings[0] as { x: number[]; y: number[] };
    expect(ladder.x).toEqual([0, 2, 10, 20, 30, 40, 50, 60, 70, 80, 90, 100]);
    ladder.x.forEach((times, k) => expect(ladder.y[k]).toBeCloseTo(gross - times * costs, 6));
    const twice = whole({ ...context, settings: settings(40) });
    expect(got(outcome, "profitFactor")).toBeCloseTo(twice.metrics.all.profitFactor!, 9);
  });

  it("refuses settings without costs, and an edge beyond what is looked at", () => {
    expect(run("raisedCosts", { criteria: { edge: 2 } }, contextOf({ settings: settingsOf({ costs: {} }) })).problems[0].path).toBe(
      "settings.costs",
    );
    expect(run("raisedCosts", { most: 3, criteria: { edge: 4 } }).problems[0].path).toBe("most");
  });
});

describe("worse fills", () => {
  it("takes entries late as a rule of one bar back would", () => {
    const late = strategyOf({
      long: { enter: { when: "(close > sma(close, length)) 1 back" }, exit: { when: "close < sma(close, length)" } },
    });
    const outcome = outcomeOf("otherFills", { late: 1, repeats: 10, criteria: { late: 1, missed: 1, lowest: 0.1 } });
    const part = outcome.parts[outcome.parts.length - 1];
    expect(part.name).toBe("entries 1 bar late");
    expect(part.metrics).toEqual(whole(contextOf({ strategy: late })).metrics.all);
  });

  it("misses entries at random: fewer trades, the same for the same seed", () => {
    const given = { missed: 60, repeats: 20, seed: 3, criteria: { missed: 0 } };
    const first = outcomeOf("otherFills", given);
    expect(outcomeOf("otherFills", given)).toEqual(first);
    expect(outcomeOf("otherFills", { ...given, seed: 4 }).drawings).not.toEqual(first.drawings);
    const table = first.drawings.find((drawing) => drawing.kind === "confidence")!;
    const trades = table.rows.find((row) => row.metric === "trades")!;
    expect(trades.values[0]!).toBeLessThanOrEqual(trades.real!);
  });

  it("refuses an entry rule that looks at the position", () => {
    const own = strategyOf({
      long: { enter: { when: "close > sma(close, length) and not inLong" }, exit: { when: "close < sma(close, length)" } },
    });
    expect(run("otherFills", { criteria: { late: 1 } }, contextOf({ strategy: own })).problems[0].message).toContain(
      "looks at the position",
    );
  });
});

describe("every probe", () => {
  it("gives in one go what its units give one by one, by way of JSON", () => {
    for (const [kind, given] of [
      ["outOfSample", { split: "2017-01-31", criteria: { trades: 1 } }],
      ["shakenParameters", { runs: 20, criteria: { share: 10 } }],
      ["shuffledTrades", { runs: 700, criteria: { ruin: 10 } }],
      ["randomEntries", { runs: 250, criteria: { better: 10 } }],
      ["shakenData", { runs: 10, criteria: { share: 10 } }],
    ] as const) {
      const probe = PROBES.get(kind)!;
      const input = readInput(probe, given).value!;
      expect(JSON.parse(JSON.stringify(runProbe(probe, input, contextOf()).outcome))).toEqual(
        JSON.parse(JSON.stringify(outcomeOf(kind, given))),
      );
    }
  });

  it("names in its tables only figures that there are", () => {
    const { drawings } = outcomeOf("shakenParameters", { runs: 20, criteria: { share: 10 } });
    for (const drawing of drawings)
      if (drawing.kind === "confidence") for (const { metric } of drawing.rows) expect(METRICS[metric]).toBeDefined();
  });
});
