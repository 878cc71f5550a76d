import { describe, expect, it } from "vitest";
import { PROBES, readInput } from "#core/probes";
import { askedWords, criterionText, formOf, inputOf, inputWords, typedNumber } from "./form-state";

describe("a probe's form", () => {
  it("gives back what it was made from, for every kind", () => {
    const search = { vary: [{ name: "a", from: 1, to: 2, step: 1 }], objective: [{ metric: "netProfit" }] };
    const given = { split: "2020-01-01", search, markets: ["KELP"], timeframes: ["4h", "1w"] };
    for (const kind of PROBES.values()) {
      const form = formOf(kind, null, given);
      for (const { key } of kind.criteria) if (form.criteria[key] === "") form.criteria[key] = "1";
      const read = readInput(kind, JSON.parse(JSON.stringify(inputOf(kind, form))));
      expect([kind.kind, read.problems]).toEqual([kind.kind, []]);
      expect(JSON.parse(JSON.stringify(inputOf(kind, formOf(kind, read.value))))).toEqual(JSON.parse(JSON.stringify(read.value)));
    }
  });

  it("leaves out what is not asked, and takes either decimal sign", () => {
    const kind = PROBES.get("outOfSample")!;
    const form = formOf(kind, null, { split: "2020-01-01" });
    form.criteria = { profitFactor: "1,2", trades: "", keptPercent: " ", drawdown: "" };
    expect(inputOf(kind, form)).toEqual({ split: "2020-01-01", side: "later", criteria: { profitFactor: 1.2 } });
    expect([typedNumber("−"), typedNumber(""), typedNumber("1e3")]).toEqual(["−", undefined, 1000]);
  });

  it("says its inputs in one line, a search by what it varies", () => {
    const shaken = PROBES.get("shakenParameters")!;
    expect(inputWords(shaken, readInput(shaken, { runs: 50, criteria: { share: 1 } }).value!)).toBe(
      "runs 50 · each parameter is moved with a probability of 80 % · by up to 20 % · of its value · a run holds from a profit factor of 1.1 · seed 1",
    );
    const walk = PROBES.get("walkForward")!;
    const search = {
      vary: [
        { name: "a", from: 1, to: 9, step: 2 },
        { name: "b", values: [true, false] },
      ],
      objective: [{ metric: "netProfit" }],
    };
    expect(inputWords(walk, readInput(walk, { search, anchored: true, criteria: { net: 0 } }).value!)).toBe(
      "what is fitted again and again: a 1 to 9 by 2; b true, false · each fit begins with the first date · a fit takes its best trial · windows 10 · out-of-sample share of a window 20 %",
    );
  });

  it("says what is asked in one line", () => {
    expect(askedWords(PROBES.get("shuffledTrades")!, { drawdown: 25, ruin: 1.5 })).toBe(
      "drawdown that 95 of 100 stay within ≤ 25 %, share that comes to ruin ≤ 1.5 %",
    );
    expect([criterionText("times", 2.25), criterionText("ratio", 1.234), criterionText("count", 1234)]).toEqual(["2.3 ×", "1.23", "1,234"]);
  });
});
