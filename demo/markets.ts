import { firstAtOrAfter, marketSpec, parseDate, DAY, sliceBars, type Bars, type MarketSpec } from "#core/bars";
import { FLAWS, secondSource } from "./breakwater";
import { allDates, LAST, saltmarchDates, saltmarchSession } from "./calendar";
import { makeBars, type Character } from "./generator";
import { makeMinutes } from "./minutes";
import { barleySeason, stormDates } from "./regimes";
import { makeTide } from "./tide";

/** A market of the Saltmarch Exchange. */
export interface DemoMarket {
  spec: MarketSpec;
  name: string;
  kind: "future" | "index" | "bond";
  /** costs that a run starts from: commission per unit and fill, spread and slippage in ticks */
  costs: { perUnit: number; spreadTicks: number; slippageTicks: number };
  /** how the first source sees each day until a last one, before its flaws */
  daily: (last: number) => Bars;
  /** one-minute bars of 2023 to 2025: share of the day that the first hour decides, by which sources; null without any */
  minutes: { seed: number; opening: number; missing: number; sources: readonly SourceName[] } | null;
}

export type SourceName = "Lighthouse" | "Breakwater";
export const SOURCES: readonly SourceName[] = ["Lighthouse", "Breakwater"];
const MINUTES_FROM = parseDate("2023-01-01")! * DAY;

/** storms are drawn date by date, so that a longer list begins like a shorter one */
const storms = stormDates(saltmarchDates(LAST + 800));

const PLAIN = { tails: 5, drift: 0, trend: { days: 0, pull: 0 }, missing: 0.001 };
const market = (
  symbol: string,
  name: string,
  tick: number,
  pointValue: number,
  character: Omit<Character, "tick">,
  more: Partial<DemoMarket> = {},
): DemoMarket => ({
  spec: marketSpec({ symbol, tick, pointValue, margin: { mode: "fraction", value: 0.1 }, session: saltmarchSession() }),
  name,
  kind: "future",
  costs: { perUnit: 2, spreadTicks: 1, slippageTicks: 1 },
  daily: (last) => makeBars({ ...character, tick }, saltmarchDates(last)),
  minutes: null,
  ...more,
});

/** The planted truths are told in docs/demo-data.md and checked by a test. */
export const DEMO_MARKETS: readonly DemoMarket[] = [
  market(
    "FERRY",
    "Ferry freight index",
    0.5,
    50,
    { ...PLAIN, seed: 37, start: 240, volatility: 0.013, trend: { days: 50, pull: 0.13 }, volume: 8000 },
    { minutes: { seed: 601, opening: 0, missing: 0.02, sources: SOURCES } },
  ),
  market(
    "KELP",
    "Kelp meal",
    0.25,
    10,
    { ...PLAIN, seed: 34, start: 620, volatility: 0.011, tails: 4, drift: 0.0001, trend: { days: 40, pull: 0.09 }, volume: 15000 },
    { minutes: { seed: 602, opening: 0.3, missing: 0.01, sources: SOURCES } },
  ),
  market("PEAT", "Peat", 0.1, 100, { ...PLAIN, seed: 14, start: 95, volatility: 0.012, volume: 11000 }),
  market("WOOL", "Marsh wool", 0.5, 20, { ...PLAIN, seed: 211, start: 310, volatility: 0.01, tails: 4, volume: 6000 }),
  market("BARLEY", "Malting barley", 0.25, 50, {
    ...PLAIN,
    seed: 223,
    start: 180,
    volatility: 0.011,
    volume: 9000,
    influence: (date) => ({ move: barleySeason(date), heat: 1 }),
  }),
  {
    spec: marketSpec({ symbol: "TIDE", tick: 0.05, pointValue: 100, margin: { mode: "perUnit", value: 1500 } }),
    name: "Tidal power",
    kind: "future",
    costs: { perUnit: 1, spreadTicks: 2, slippageTicks: 1 },
    daily: (last) => makeTide(229, 0.05, allDates(last)),
    minutes: { seed: 603, opening: 0, missing: 0.01, sources: ["Lighthouse"] },
  },
  market(
    "SHORE10",
    "Shore bond, ten years",
    0.01,
    1000,
    {
      ...PLAIN,
      seed: 227,
      start: 112,
      volatility: 0.0028,
      volume: 22000,
      influence: (date) => ({ move: storms.has(date) ? 0.00035 : -0.00004, heat: 1 }),
    },
    { kind: "bond" },
  ),
  market(
    "SALT40",
    "Saltmarch forty",
    0.5,
    10,
    {
      ...PLAIN,
      seed: 233,
      start: 1900,
      volatility: 0.0075,
      volume: 30000,
      influence: (date) => (storms.has(date) ? { move: -0.0022, heat: 2.4 } : { move: 0.0007, heat: 0.85 }),
    },
    { kind: "index" },
  ),
  market("GLASS", "Bottle glass", 0.1, 50, { ...PLAIN, seed: 241, start: 140, volatility: 0.012, volume: 7000 }),
];

/** One source of a demo market. */
export interface DemoSource {
  source: SourceName;
  timeframe: "1d" | "1m";
  bars: Bars;
}

/** Daily bars of a demo market as its first source sees them, flaws and all. The same at every call. */
export const demoBars = (given: DemoMarket, last = LAST): Bars => flawed(given, given.daily(last), "Lighthouse", "1d");

function flawed(given: DemoMarket, bars: Bars, source: SourceName, timeframe: "1d" | "1m"): Bars {
  return (FLAWS[given.spec.symbol] ?? [])
    .filter((flaw) => flaw.source === source && flaw.timeframe === timeframe)
    .reduce((made, flaw) => flaw.apply(made), bars);
}

/** Everything that the sources know of a market until a last date: daily bars of both, one-minute bars where there are any. */
export function* demoSources(given: DemoMarket, last = LAST): Generator<DemoSource> {
  const daily = given.daily(last);
  const { tick, session } = given.spec;
  const seed = given.minutes?.seed ?? 700 + given.spec.symbol.length;
  yield { source: "Lighthouse", timeframe: "1d", bars: flawed(given, daily, "Lighthouse", "1d") };
  yield { source: "Breakwater", timeframe: "1d", bars: flawed(given, secondSource(daily, tick, seed, 0.002), "Breakwater", "1d") };
  if (given.minutes === null) return;
  const recent = sliceBars(daily, firstAtOrAfter(daily.time, MINUTES_FROM), daily.length);
  const minutes = makeMinutes({ ...given.minutes, tick }, recent, session);
  for (const source of given.minutes.sources)
    yield {
      source,
      timeframe: "1m",
      bars: flawed(given, source === "Lighthouse" ? minutes : secondSource(minutes, tick, seed + 1, 0.004), source, "1m"),
    };
}

/** The board's daily move, as the shares feel it. */
export function boardMoves(last = LAST): Map<number, number> {
  const { time, close } = DEMO_MARKETS.find((one) => one.spec.symbol === "SALT40")!.daily(last);
  const moves = new Map<number, number>();
  for (let t = 1; t < close.length; t++) moves.set(time[t] / DAY, Math.log(close[t] / close[t - 1]));
  return moves;
}
