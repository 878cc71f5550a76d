import { describe, expect, it } from "vitest";
import { compileStrategy } from "#core/engine";
import { readStrategy } from "#core/documents";
import { checkRule, lookedAt } from ".";

const columns = (when: string, more: object = {}) => {
  const strategy = readStrategy({
    format: "canyon.strategy/1",
    timeframe: "1d",
    long: { enter: { when } },
    sizing: { mode: "units", value: 1 },
    ...more,
  }).value!;
  const compiled = compileStrategy(strategy);
  expect(compiled.problems).toEqual([]);
  return lookedAt([compiled.value!.long!.enter!], compiled.value!.values);
};

describe("the numbers that rules look at", () => {
  it("are the sides of comparisons, each once, with parameters as their values", () => {
    expect(
      columns("sma(close, n) crosses above sma(close, 50) and close > sma(close, n) and rsi(14) from 30 to 70", {
        parameters: [{ name: "n", kind: "whole", value: 20, min: 2, max: 100, step: 1 }],
      }),
    ).toEqual(["sma(close, 20)", "sma(close, 50)", "rsi(close, 14)"]);
  });

  it("leave out what rests on the position, bare prices and constants", () => {
    expect(columns("close > 100 and volume > 5 and (barsHeld > 3 or inLong)")).toEqual(["volume"]);
  });

  it("write definitions and their chosen variant out, in a form that can be read again", () => {
    const found = columns("Base > Slow and Slow is rising", {
      definitions: [
        { name: "Slow", rule: "sma(close, 30)" },
        { name: "Base", variants: [{ rule: "close" }, { rule: "ema(close, 5) + 1" }], chosen: 2 },
      ],
    });
    expect(found).toEqual(["ema(close, 5) + 1", "sma(close, 30)"]);
    for (const text of found) expect(checkRule(text, undefined, "number").problems).toEqual([]);
  });
});
