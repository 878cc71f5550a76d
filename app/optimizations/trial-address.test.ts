import { describe, expect, it } from "vitest";
import { NO_COSTS, readSettings } from "#core/documents";
import { startSettings, stateOfSettings, withAddress } from "~/runs/settings-state";
import { trialAddress } from "./trial-address";

const settings = readSettings({
  format: "canyon.settings/1",
  markets: [
    { symbol: "KELP", bars: "x", timeframe: "1d" },
    { symbol: "PEAT", bars: "y", timeframe: "1d" },
  ],
  capital: 12_345,
  leverage: 2,
  to: "2019-06-30",
  costs: { ...NO_COSTS, perUnit: 3, spreadTicks: 2 },
  intrabar: "path",
}).value!;

describe("where a trial is looked at", () => {
  const view = { id: 4, number: 2, versionNumber: 3, strategyId: 9, settings };
  const url = new URL(trialAddress(view, { fast: 1 + 9 * 0.1, slow: 40 }, 17), "http://localhost");

  it("is its version with its values, and a note of where they come from", () => {
    expect(url.pathname).toBe("/strategies/9");
    expect(url.searchParams.get("v")).toBe("3");
    expect(url.searchParams.get("set")).toBe("fast:1.9,slow:40");
    expect(url.searchParams.get("origin")).toBe("values of trial 17 of optimization 2");
  });

  it("stands under the run settings that it was computed with, whatever the version was last looked at with", () => {
    const other = { ...startSettings(undefined), market: "KELP", from: "2011-01-01", capital: "77", intrabar: "optimistic" };
    expect(withAddress(other, url.searchParams)).toEqual(stateOfSettings(settings));
  });
});
