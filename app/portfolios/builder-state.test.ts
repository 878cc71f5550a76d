import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { NO_COSTS } from "#core/documents";
import type { MarketView } from "#server/markets";
import {
  EMPTY_STATE,
  rebalance,
  settingsOfState,
  stateOf,
  symbolsIn,
  weightingProblems,
  withMember,
  withoutMember,
  withWeight,
  type BuilderState,
  type Candidate,
} from "./builder-state";

const candidate = (versionId: number, name: string, markets: string[], rule = "close > open"): Candidate => ({
  versionId,
  strategyId: versionId,
  name,
  number: 1,
  status: "survivor",
  survivor: true,
  markets,
  strategy: { format: "canyon.strategy/1", timeframe: "1d", long: { enter: { when: rule } }, sizing: { mode: "units", value: 1 } },
  layers: [],
});
const market = (symbol: string): MarketView =>
  ({
    symbol,
    currency: "SKR",
    costs: { ...NO_COSTS, perOrder: 3 },
    spec: { symbol, tick: 0.5, pointValue: 1 },
    sources: [],
    barsHash: `bars of ${symbol}`,
    timeframe: "1d",
    source: "x",
  }) as unknown as MarketView;
const MARKETS = ["EEL", "COD", "HAKE"].map(market);
const SYMBOLS = MARKETS.map(({ symbol }) => symbol);
const total = ({ members }: BuilderState) => members.reduce((sum, { weight }) => sum + weight, 0);

describe("members and their weights", () => {
  it("stay at 100 % whatever comes, goes and moves", () => {
    const step = fc.oneof(
      fc.record({ what: fc.constant("add" as const), k: fc.nat(20) }),
      fc.record({ what: fc.constant("remove" as const), k: fc.nat(20) }),
      fc.record({ what: fc.constant("weigh" as const), k: fc.nat(20), to: fc.double({ min: -0.2, max: 1.2, noNaN: true }) }),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 15 }), (steps) => {
        let state = EMPTY_STATE;
        for (const one of steps) {
          const n = state.members.length;
          if (one.what === "add") state = withMember(state, candidate(one.k, `V${one.k}`, ["EEL"]), SYMBOLS);
          else if (n > 0) state = one.what === "remove" ? withoutMember(state, one.k % n) : withWeight(state, one.k % n, one.to);
          if (state.members.length > 0) expect(total(state)).toBeCloseTo(1, 9);
          expect(state.members.every(({ weight }) => weight >= 0)).toBe(true);
          expect(new Set(state.members.map(({ name }) => name)).size).toBe(state.members.length);
        }
      }),
    );
  });

  it("what one takes, the others give in proportion", () => {
    expect(rebalance([0.5, 0.3, 0.2], 0, 0.75)).toEqual([0.75, 0.15, 0.1]);
    expect(rebalance([1], 0, 0.2)).toEqual([1]);
  });
});

describe("run settings of what is typed", () => {
  const candidates = [candidate(1, "A", ["EEL"]), candidate(2, "B", ["COD"], "close of HAKE > 3")];
  const state = candidates.reduce((before, one) => withMember(before, one, SYMBOLS), EMPTY_STATE);

  it("hold the traded markets and those that rules name, with one market's costs", () => {
    const { settings, problems } = settingsOfState(state, candidates, MARKETS, {}, null);
    expect(problems).toEqual([]);
    expect(settings!.markets.map(({ symbol, bars }) => [symbol, bars])).toEqual(
      ["EEL", "COD", "HAKE"].map((symbol) => [symbol, `bars of ${symbol}`]),
    );
    expect(settings).toMatchObject({ capital: 1_000_000, benchmark: "EEL", costs: { perOrder: 3 } });
    const again = stateOf("X", { members: state.members, settings: settings!, weighting: { mode: "given" } });
    expect(settingsOfState(again, candidates, MARKETS, {}, { ...NO_COSTS, perOrder: 9 }).settings!.costs.perOrder).toBe(9);
  });

  it("say what is wrong at its place", () => {
    const wrong = {
      ...state,
      account: { ...state.account, capital: "much" },
      members: [
        { ...state.members[0], markets: ["WHALE"] },
        { ...state.members[1], markets: [] },
      ],
    };
    expect(settingsOfState(wrong, candidates, MARKETS, {}, null)).toMatchObject({
      settings: null,
      problems: [{ path: "members[0].markets" }, { path: "members[1].markets" }, { path: "capital" }],
    });
    expect(
      weightingProblems({ ...state, weighting: { mode: "minimumVariance", from: "2015-01-01", most: 0.2 } }).map(({ path }) => path),
    ).toEqual(["weights.to", "weights.most"]);
    expect(weightingProblems({ ...state, weighting: { mode: "riskParity", from: "2016-01-01", to: "2015-01-01" } })).toHaveLength(1);
    expect(symbolsIn("eel, cod;hake  eel")).toEqual(["EEL", "COD", "HAKE"]);
  });
});
