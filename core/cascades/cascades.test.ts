import { describe, expect, it } from "vitest";
import { contextOf, flatBars, settingsOf, strategyOf } from "#core/probes/testing";
import { ownSearch } from "#core/probes";
import { fixtureBars } from "#core/testing/fixtures";
import { READY_MADE_CASCADES, readCascade, runCascade, spanOfBars, stageInput, windowOf } from ".";

const cascade = (stages: object[], more: object = {}) => ({ format: "canyon.cascade/1", name: "Mine", stages, ...more });

describe("a cascade", () => {
  it("is read with everything that does not depend on a version checked, each problem at its place", () => {
    for (const one of READY_MADE_CASCADES) expect(readCascade(JSON.parse(JSON.stringify(one)))).toEqual({ value: one, problems: [] });
    const path = (given: object) => readCascade(given).problems[0].path;
    expect(path(cascade([]))).toBe("stages");
    expect(path(cascade([{ probe: "luck", input: { criteria: {} } }]))).toBe("stages[0].probe");
    expect(path(cascade([{ probe: "holdOut", input: { criteria: { trades: 1 } } }]))).toBe("stages[0].probe");
    expect(path(cascade([{ probe: "outOfSample", input: { split: "170%", criteria: { trades: 1 } } }]))).toBe("stages[0].input.split");
    expect(path(cascade([{ probe: "outOfSample", input: { split: "70%", criteria: { edge: 1 } } }]))).toBe("stages[0].input.criteria.edge");
    expect(path(cascade([{ probe: "walkForward", input: { windows: 0, criteria: { net: 1 } } }]))).toBe("stages[0].input.windows");
    expect(path({ ...cascade([{ probe: "walkForward", input: { criteria: { net: 1 } } }]), name: " " })).toBe("name");
    expect(path({ ...cascade([{ probe: "walkForward", input: { criteria: { net: 1 } } }]), speed: 1 })).toBe("speed");
  });

  it("takes shares of a window as dates, and a version's own ranges as what is searched", () => {
    const window = windowOf({ from: null, to: null }, [spanOfBars(flatBars(Array.from({ length: 101 }, () => 1)))]);
    expect(stageInput({ probe: "outOfSample", input: { split: "70%", criteria: {} } }, strategyOf(), window).split).toBe("2010-03-15");
    expect(stageInput({ probe: "walkForward", input: { criteria: {} } }, strategyOf(), window).search).toEqual(ownSearch(strategyOf()));
    expect(windowOf({ from: "2010-02-01", to: "2010-02-11" }, [])).toEqual([14641, 14651]);
  });

  it("stops at the first failure, or goes on", () => {
    const stages = [
      { probe: "outOfSample", input: { split: "70%", criteria: { trades: 1_000_000 } } },
      { probe: "shuffledTrades", input: { runs: 100, criteria: { ruin: 100 } } },
    ];
    const stopped = runCascade(readCascade(cascade(stages)).value!, contextOf());
    expect([stopped.through, stopped.stages.map(({ outcome }) => outcome?.verdict)]).toEqual([false, ["failed"]]);
    const on = runCascade(readCascade(cascade(stages, { goOn: true })).value!, contextOf());
    expect([on.through, on.stages.map(({ outcome }) => outcome?.verdict)]).toEqual([false, ["failed", "passed"]]);
    const through = runCascade(readCascade(cascade(stages.slice(1))).value!, contextOf());
    expect(through.through).toBe(true);
  });

  it("says why a probe can't be asked of a version", () => {
    const bare = strategyOf({
      parameters: [],
      long: { enter: { when: "close > sma(close, 9)" }, exit: { when: "close < sma(close, 9)" } },
    });
    const { through, stages } = runCascade(
      readCascade(cascade([{ probe: "walkForward", input: { criteria: { net: 0 } } }])).value!,
      contextOf({ strategy: bare, bars: [fixtureBars("data/ferry-1d.csv")], settings: settingsOf() }),
    );
    expect([through, stages[0].outcome, stages[0].problems[0].path]).toEqual([false, null, "search"]);
  });
});

describe("a search of a version's own ranges", () => {
  it("has few enough combinations, whatever the ranges", () => {
    const wide = ["a", "b", "c"].map((name) => ({ name, kind: "whole" as const, value: 5, min: 1, max: 1000 }));
    const { vary } = ownSearch({ ...strategyOf(), parameters: wide })!;
    const count = vary.reduce((all, { from, to, step }) => all * (Math.floor((to! - from!) / step!) + 1), 1);
    expect(count).toBeLessThanOrEqual(500);
    expect(count).toBeGreaterThan(60);
    expect(ownSearch({ ...strategyOf(), parameters: [{ name: "a", kind: "yesNo", value: true }] })).toBe(null);
  });
});
