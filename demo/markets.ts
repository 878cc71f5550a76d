import { marketSpec, type Bars, type MarketSpec } from "#core/bars";
import { makeBars, type Character } from "./generator";
import { saltmarchSession } from "./calendar";

/** A market of the Saltmarch Exchange with its source. */
export interface DemoMarket {
  spec: MarketSpec;
  name: string;
  kind: "future";
  source: string;
  /** costs that a run starts from: commission per unit and fill, spread and slippage in ticks */
  costs: { perUnit: number; spreadTicks: number; slippageTicks: number };
  character: Character;
}

const market = (symbol: string, name: string, tick: number, pointValue: number, character: Omit<Character, "tick">): DemoMarket => ({
  spec: marketSpec({ symbol, tick, pointValue, margin: { mode: "fraction", value: 0.1 }, session: saltmarchSession() }),
  name,
  kind: "future",
  source: "Lighthouse",
  costs: { perUnit: 2, spreadTicks: 1, slippageTicks: 1 },
  character: { ...character, tick },
});

/** The planted truths are told in docs/demo-data.md and checked by a test. */
export const DEMO_MARKETS: readonly DemoMarket[] = [
  market("FERRY", "Ferry freight index", 0.5, 50, {
    seed: 37,
    start: 240,
    volatility: 0.013,
    tails: 5,
    drift: 0,
    trend: { days: 50, pull: 0.13 },
    volume: 8000,
    missing: 0.001,
  }),
  market("KELP", "Kelp meal", 0.25, 10, {
    seed: 34,
    start: 620,
    volatility: 0.011,
    tails: 4,
    drift: 0.0001,
    trend: { days: 40, pull: 0.09 },
    volume: 15000,
    missing: 0.001,
  }),
  market("PEAT", "Peat", 0.1, 100, {
    seed: 14,
    start: 95,
    volatility: 0.012,
    tails: 5,
    drift: 0,
    trend: { days: 0, pull: 0 },
    volume: 11000,
    missing: 0.001,
  }),
];

/** Bars of a demo market, the same at every call. */
export const demoBars = (market: DemoMarket): Bars => makeBars(market.character);
