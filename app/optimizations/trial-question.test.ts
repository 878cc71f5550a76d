import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { METRIC_KEYS } from "#core/metrics";
import { mapChoice } from "./map-panel";
import { MOST_PICKED, numbersOf, picksOf, writePicks } from "./picks";
import { askedPart, columnsOf, filtersOf, firstColumns, questionOf, writeFilters } from "./trial-question";

const SEARCH = { objective: [{ metric: "mar", want: "more" as const, weight: 1 }] };

describe("filters in an address", () => {
  it("come back as they were written", () => {
    const bound = fc.option(fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e9, max: 1e9 }).map((x) => x + 0));
    const filter = fc.record({ key: fc.constantFrom("fast", "netProfit", "fit"), least: bound, most: bound });
    fc.assert(
      fc.property(fc.array(filter, { maxLength: 4 }), (filters) => {
        const text = writeFilters(filters);
        const back = filtersOf(new URLSearchParams(text === null ? {} : { f: text }).get("f"));
        expect(back).toEqual(filters);
      }),
    );
  });

  it("are passed over where they name nothing or bound nothing", () => {
    const params = new URLSearchParams({ f: "trades~30~,nonsense~1~2,netProfit~~,fast~x~10", sort: "-sharpe", show: "inside" });
    expect(questionOf(params, ["netProfit"], ["fast"])).toEqual({
      sort: "sharpe",
      falling: true,
      filters: [
        { key: "trades", least: 30, most: null },
        { key: "fast", least: null, most: 10 },
      ],
      standing: "inside",
      columns: ["netProfit"],
    });
    expect(questionOf(new URLSearchParams(), [], [])).toMatchObject({ sort: "fit", falling: true, filters: [], standing: "all" });
    expect(askedPart(new URLSearchParams({ pick: "3", sort: "fast", f: "fast~1~", map: "mar" }))).toBe("sort=fast&f=fast%7E1%7E");
  });
});

describe("columns of a table of trials", () => {
  it("begin with the objective, keep to what trials have, and never lose the objective", () => {
    expect(firstColumns(SEARCH)[0]).toBe("mar");
    const quick = { figures: "trades" as const, objective: [{ metric: "netProfit", want: "more" as const, weight: 1 }] };
    expect(firstColumns(quick)).not.toContain("sharpe");
    expect(columnsOf(SEARCH, ["sharpe", "trades"])).toEqual(["sharpe", "trades", "mar"]);
    expect(columnsOf(quick, ["sharpe"])).toEqual(firstColumns(quick));
    expect(columnsOf(SEARCH, null).every((key) => METRIC_KEYS.includes(key))).toBe(true);
  });
});

describe("picked trials", () => {
  it("are taken in and let go, the first one where there are too many", () => {
    expect(writePicks(new Set(), 7)).toBe("7");
    expect(writePicks(new Set([7, 9]), 7)).toBe("9");
    expect(writePicks(new Set([7]), 7)).toBeNull();
    const full = new Set(Array.from({ length: MOST_PICKED }, (_, i) => i));
    expect(numbersOf(writePicks(full, 99))).toEqual([1, 2, 3, 4, 5, 6, 7, 99]);
    expect([...picksOf(new URLSearchParams({ pick: "3,x,3,-1,12" }))]).toEqual([3, 12]);
  });
});

describe("what a map shows", () => {
  const axes = [
    { name: "fast", values: [5, 10], steps: true },
    { name: "slow", values: [20, 40, 60], steps: true },
    { name: "stop", values: [1, 2, 3], steps: true },
  ];
  const choice = (address: Record<string, string>) => mapChoice(new URLSearchParams(address), axes, "mar", { stop: 2.2, fast: 7 });

  it("is the first two names with the others at their best, until somebody chooses", () => {
    expect(choice({})).toEqual({ x: "fast", y: "slow", key: "mar", others: { how: "best" } });
    expect(choice({ mx: "slow" })).toMatchObject({ x: "slow", y: "fast" });
    expect(choice({ mx: "slow", my: "slow" })).toMatchObject({ x: "slow", y: "fast" });
    expect(choice({ mx: "nothing", map: "sharpe" })).toMatchObject({ x: "fast", key: "sharpe" });
  });

  it("takes fixed names at the value nearest to what is asked, else to the middle's", () => {
    expect(choice({ others: "fixed" })!.others).toEqual({ how: "fixed", at: { stop: 2 } });
    expect(choice({ others: "fixed", at: "stop:3" })!.others).toEqual({ how: "fixed", at: { stop: 3 } });
    expect(choice({ others: "fixed", my: "stop", at: "slow:47" })!.others).toEqual({ how: "fixed", at: { slow: 40 } });
  });

  it("is none for a single name, and fixed by itself for two", () => {
    expect(mapChoice(new URLSearchParams(), axes.slice(0, 1), "mar", {})).toBeNull();
    expect(mapChoice(new URLSearchParams({ others: "median" }), axes.slice(0, 2), "mar", {})!.others).toEqual({ how: "fixed", at: {} });
  });
});
