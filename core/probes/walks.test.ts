import { describe, expect, it } from "vitest";
import { readWalkForward, Walker, walkForwardMap } from "#core/walk-forward";
import { backtest } from "#core/runs";
import { planParts } from "#core/testing/research";
import { contextOf, flatBars, got, outcomeOf, run, settingsOf, strategyOf } from "./testing";
import { fixtureBars } from "#core/testing/fixtures";

const { vary, objective } = { vary: [{ name: "length", from: 5, to: 60, step: 5 }], objective: [{ metric: "netProfit" }] };

/** A walk-forward of the fixtures as the probe takes it. */
function fixture(folder: string) {
  const { plan, strategy, settings, bars } = planParts(`research/${folder}`);
  const read = readWalkForward(plan).value!;
  const { from, to, windows, outShare, anchored, choose, criteria } = read;
  const { vary, where, method, objective, limits, mark } = plan as Record<string, unknown>;
  const context = contextOf({ strategy, settings: { ...settings, from: from ?? settings.from, to: to ?? settings.to }, bars });
  return {
    read,
    context,
    walker: Walker.prepare(strategy, settings, read, bars).value!,
    input: { search: { vary, where, method, objective, limits, mark }, anchored, choose },
    windows,
    outShare,
    criteria,
  };
}

describe("walk-forward", () => {
  it("is, fit by fit in any order, the walk of the core", () => {
    const { context, input, windows, outShare, walker } = fixture("03-four-windows");
    const outcome = outcomeOf(
      "walkForward",
      { ...input, windows: windows[0], outShare: outShare[0], criteria: { efficiency: 0, profitable: 1, net: -50 } },
      context,
    );
    const walk = walker.walk(windows[0], outShare[0]);
    const drawing = outcome.drawings[0];
    if (drawing.kind !== "walk") throw new Error("no walk");
    expect(drawing.windows.map((window) => window.values)).toEqual(walk.windows.map((window) => window.values));
    expect(drawing.stitched.equity).toEqual(walk.stitched.equity);
    expect(drawing.nextRefit).toBe(walk.nextRefit);
    expect(got(outcome, "efficiency")).toBe(walk.efficiency === null ? null : 100 * walk.efficiency);
    expect(got(outcome, "profitable")).toBe(100 * walk.profitable);
    expect(drawing.fixed.dates[0]).toBe(drawing.stitched.dates[0]);
    expect(drawing.fixed.dates.length).toBe(drawing.stitched.dates.length);
    expect(Object.keys(drawing.next!)).toEqual(Object.keys(walk.windows[0].values!));
  });

  it("refuses windows that are shorter than what the rules need, and a version that never trades", () => {
    const search = { vary: [{ name: "length", from: 200, to: 400, step: 100 }], objective };
    const short = run("walkForward", { search, windows: 20, outShare: 40, criteria: { net: 0 } }).problems[0];
    expect([short.path, short.message]).toEqual(["windows", expect.stringContaining("the rules say nothing before 399")]);
    const never = strategyOf({ long: { enter: { when: "close > 1000000 + length" } } });
    const idle = run("walkForward", { search: { vary, objective }, criteria: { net: 0 } }, contextOf({ strategy: never })).problems[0];
    expect([idle.path, idle.message]).toEqual(["windows", expect.stringContaining("closes no trade")]);
  });

  it("refuses windows that are too short, and a search that makes no sense, at their places", () => {
    expect(
      run(
        "walkForward",
        { search: { vary, objective }, windows: 200, outShare: 1, criteria: { net: 0 } },
        contextOf({ bars: [flatBars(Array.from({ length: 90 }, (_, k) => 100 + k))] }),
      ).problems[0].path,
    ).toBe("windows");
    expect(
      run("walkForward", { search: { vary: [{ name: "depth", from: 1, to: 2, step: 1 }], objective }, criteria: { net: 0 } }).problems[0]
        .path,
    ).toContain("vary");
    expect(run("walkForward", { search: { vary, objective: [{ metric: "luck" }] }, criteria: { net: 0 } }).problems[0].path).toBe(
      "search.objective[0].metric",
    );
  });
});

describe("the map of walk-forward settings", () => {
  it("is the map of the core, with its depth as the criterion", () => {
    const { context, input, read, windows, outShare, walker } = fixture("04-map");
    const bounds = Object.fromEntries(read.criteria.map(({ figure, least, most }) => [figure, 100 * (least ?? most!)]));
    const outcome = outcomeOf(
      "walkForwardMap",
      { ...input, windows, outShare, efficiency: -1e6, profitable: 0, largestShare: 100, ...bounds, criteria: { depth: 1, holding: 1 } },
      context,
    );
    const drawing = outcome.drawings[0];
    if (drawing.kind !== "map") throw new Error("no map");
    const criteria = (["efficiency", "profitable"] as const).map((figure) => ({
      figure,
      least: (figure in bounds ? bounds[figure] : figure === "efficiency" ? -1e6 : 0) / 100,
    }));
    const map = walkForwardMap(walker, {
      windows,
      outShare,
      criteria: [...criteria, { figure: "largestShare", most: (bounds.largestShare ?? 100) / 100 }],
    });
    expect(drawing.cells).toEqual(map.cells);
    expect(drawing.recommended).toEqual(map.recommended);
    expect(got(outcome, "depth")).toBe(Math.max(...map.cells.map((cell) => cell.depth ?? 0)));
  });

  it("refuses a depth that no cell can have", () => {
    expect(
      run("walkForwardMap", { search: { vary, objective }, windows: [3, 4], outShare: [20, 30], criteria: { depth: 3 } }).problems[0].path,
    ).toBe("criteria.depth");
  });
});

describe("other markets, sources and timeframes", () => {
  const own = contextOf();
  const kelp = { name: "KELP", settings: settingsOf({}, "KELP"), bars: [fixtureBars("data/kelp-1d.csv")] };

  it("count the markets that hold by themselves", () => {
    const outcome = outcomeOf(
      "otherMarkets",
      { markets: ["KELP"], factor: 0, least: 0, criteria: { held: 1 } },
      { ...own, others: [kelp] },
    );
    expect(outcome.parts.map((part) => [part.name, part.held])).toEqual([
      ["the version", undefined],
      ["KELP", true],
    ]);
    expect(outcome.verdict).toBe("passed");
    expect(outcomeOf("otherMarkets", { markets: ["KELP"], factor: 999, criteria: { held: 1 } }, { ...own, others: [kelp] }).verdict).toBe(
      "failed",
    );
  });

  it("refuse more markets to hold than are looked at, and none", () => {
    expect(run("otherMarkets", { markets: ["KELP"], criteria: { held: 2 } }, { ...own, others: [kelp] }).problems[0].path).toBe(
      "criteria.held",
    );
    expect(run("otherMarkets", { criteria: { held: 1 } }).problems[0].path).toBe("markets");
  });

  it("find no difference between a source and itself, and much between two markets", () => {
    const criteria = { correlation: 0.9, drift: 10, sole: 10 };
    const same = outcomeOf("otherSources", { criteria }, { ...own, others: [{ name: "again", settings: own.settings, bars: own.bars }] });
    expect(["correlation", "drift", "sole"].map((key) => got(same, key))).toEqual([expect.closeTo(1, 10), 0, 0]);
    const other = outcomeOf(
      "otherSources",
      { criteria },
      { ...own, others: [{ name: "another", settings: own.settings, bars: kelp.bars }] },
    );
    expect(got(other, "correlation")).toBeLessThan(0.5);
    expect(got(other, "sole")).toBeGreaterThan(20);
    expect(run("otherSources", { criteria }).problems[0].message).toContain("no other source");
  });

  it("run the same rules on coarser bars, and refuse finer ones that can't be made", () => {
    const outcome = outcomeOf("otherTimeframes", { timeframes: ["1w"], factor: 0, least: 0, criteria: { held: 1 } });
    expect(outcome.parts.map((part) => part.name)).toEqual(["1d bars", "1w bars"]);
    expect(outcome.parts[1].metrics.trades!).toBeLessThan(outcome.parts[0].metrics.trades!);
    expect(run("otherTimeframes", { timeframes: ["4h"], criteria: { held: 1 } }).problems[0].message).toContain("on 4h bars");
    expect(run("otherTimeframes", { timeframes: ["1d"], criteria: { held: 1 } }).problems[0].path).toBe("timeframes");
  });
});

describe("permuted bars", () => {
  it("set the real best against the best of each repetition", () => {
    const search = { vary, objective };
    const outcome = outcomeOf("permutedBars", { search, repetitions: 19, criteria: { luck: 50 } });
    const [drawing] = outcome.drawings;
    if (drawing.kind !== "spread") throw new Error("no spread");
    const nets = [5, 10, 15, 20, 25, 30, 35, 40, 45, 50, 55, 60].map((length) => {
      const { strategy, settings, bars } = contextOf({
        strategy: strategyOf({ parameters: [{ name: "length", kind: "whole", value: length }] }),
      });
      return backtest(strategy, settings, bars).result!.metrics.all.netProfit!;
    });
    expect(drawing.marks[0].value).toBeCloseTo(Math.max(...nets), 6);
    expect(drawing.values.length).toBe(19);
    const reached = drawing.values.filter((x) => x >= drawing.marks[0].value).length;
    expect(got(outcome, "luck")).toBeCloseTo((100 * (reached + 1)) / 20, 9);
  });

  it("refuses to show a rarity that so few repetitions can't", () => {
    expect(run("permutedBars", { search: { vary, objective }, repetitions: 10, criteria: { luck: 5 } }).problems[0].path).toBe(
      "repetitions",
    );
  });
});
