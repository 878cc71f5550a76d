import { describe, expect, it } from "vitest";
import { readStrategy } from "#core/documents";
import { ownValues } from "~/optimizations/own-values";
import { valuesOf, withValues } from "./with-values";

const strategy = readStrategy({
  format: "canyon.strategy/1",
  timeframe: "1d",
  parameters: [
    { name: "fast", kind: "whole", value: 5 },
    { name: "filter", kind: "yesNo", value: true },
  ],
  definitions: [{ name: "signal", variants: [{ rule: "close > open" }, { rule: "close < open" }], chosen: 2 }],
  long: { enter: { when: "signal and filter and close > sma(close, fast)" }, exit: { when: "close < sma(close, fast)" } },
  sizing: { mode: "units", value: 1 },
}).value!;

describe("values laid over a strategy", () => {
  it("come from an address, and what is no number is passed over", () => {
    expect(valuesOf("fast:20,filter:0,slow:x,odd:,plain")).toEqual({ fast: 20, filter: 0 });
    expect(valuesOf(null)).toEqual({});
  });

  it("change parameters, truths and variants, and nothing else", () => {
    expect(ownValues(strategy)).toEqual({ fast: 5, filter: 1, signal: 2 });
    const changed = withValues(strategy, { fast: 20, filter: 0, signal: 1, unknown: 3 });
    expect(ownValues(changed)).toEqual({ fast: 20, filter: 0, signal: 1 });
    expect({ ...changed, parameters: null, definitions: null }).toEqual({ ...strategy, parameters: null, definitions: null });
    expect(withValues(strategy, {})).toBe(strategy);
  });
});
