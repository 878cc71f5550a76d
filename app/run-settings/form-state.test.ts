import { describe, expect, it } from "vitest";
import { NO_COSTS } from "#core/documents";
import { READY_MADE_SETTINGS, type SavedSettings } from "#core/settings";
import { savedOfState, stateOfSaved } from "./form-state";

const ALL: SavedSettings = {
  markets: ["KELP", "PEAT"],
  dates: { from: "2010-01-01", to: "2019-12-31" },
  capital: 50_000,
  leverage: 2,
  marketLimit: 3,
  onLackOfMargin: "skip",
  haltBelowPercent: 40,
  costs: { of: "figures", figures: { ...NO_COSTS, perUnit: 0.5, financingShortPercent: -1 } },
  intrabar: "path",
  fineTimeframe: "5m",
  roundToTick: true,
  closeAtEnd: false,
};

describe("the form of run settings", () => {
  it("gives back what it was filled with", () => {
    for (const saved of [ALL, { dates: {} }, { marketLimit: "none" as const }, ...READY_MADE_SETTINGS.map((one) => one.saved)])
      expect(savedOfState(stateOfSaved("x", saved)).saved).toEqual(saved);
  });

  it("says at its field what is missing or no number", () => {
    const state = { ...stateOfSaved("", ALL), capital: "much", marketLimit: " ", to: "2001-01-01" };
    expect(savedOfState(state).problems).toEqual([
      { path: "capital", message: "“much” is not a number" },
      { path: "marketLimit", message: "a number is missing" },
      { path: "name", message: "run settings need a name" },
    ]);
    expect(savedOfState({ ...stateOfSaved("x", ALL), to: "2001-01-01" }).problems[0].path).toBe("to");
    expect(savedOfState(stateOfSaved("x", {})).problems[0].message).toContain("fix nothing yet");
  });
});
