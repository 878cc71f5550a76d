import { compareTimeframes, formatTimeframe, parseTimeframe, type Timeframe } from "#core/bars";
import { NO_COSTS, type Costs, type DocumentProblem, type Settings, type SettingsMarket } from "#core/documents";
import type { SavedCosts, SavedSettings } from "./saved";

/**
 * What must be known of a market to run on it: how run settings name it with bars that serve a timeframe (null where it has
 * none), its finest timeframe, its own costs, its currency.
 */
export interface KnownMarket {
  serving: (timeframe: string) => SettingsMarket | null;
  finest: string;
  costs: Costs;
  currency: string;
}

/** Costs times a factor. Financing is a rate of the market and stays as it is, but there is none where there are no costs. */
export function timesCosts(costs: Costs, factor: number): Costs {
  if (factor === 0) return NO_COSTS;
  const { financingLongPercent, financingShortPercent, ...rest } = costs;
  const multiplied = Object.fromEntries(Object.entries(rest).map(([key, value]) => [key, value * factor])) as typeof rest;
  return { ...multiplied, financingLongPercent, financingShortPercent };
}

/**
 * The run settings that saved ones make of those at hand, or why they can't be had. `timeframe` is the strategy's; `know`
 * finds a market by its symbol.
 */
export function applySaved(
  saved: SavedSettings,
  hand: Settings,
  timeframe: string,
  know: (symbol: string) => KnownMarket | null,
): { settings: Settings; problems: [] } | { settings: null; problems: DocumentProblem[] } {
  const problems: DocumentProblem[] = [];
  const symbols = saved.markets ?? hand.markets.map((market) => market.symbol);
  const fine = fineOf(saved.fineTimeframe, hand.fineTimeframe, timeframe, symbols, know);
  if (fine.problem !== null) problems.push({ path: "fineTimeframe", message: fine.problem });
  const markets = symbols.flatMap((symbol) => {
    const own = hand.markets.find((one) => one.symbol === symbol);
    // bars that serve the finer timeframe take the place of those at hand, so that both come of one source
    const finer = fine.value !== null && fine.value !== hand.fineTimeframe;
    const market = own !== undefined && !finer ? own : know(symbol)?.serving(fine.value ?? timeframe);
    if (market === undefined) problems.push({ path: "markets", message: `there is no market ${symbol}; it may have been taken out` });
    else if (market === null)
      problems.push({ path: finer ? "fineTimeframe" : "markets", message: `${symbol} has no bars for ${fine.value ?? timeframe}` });
    return market ? [own?.series === undefined ? market : { ...market, series: own.series }] : [];
  });
  const first = know(symbols[0]);
  const costs = costsOf(saved.costs, hand.costs, first?.costs ?? null);
  if (costs === null) problems.push({ path: "costs", message: `the costs of ${symbols[0]} are not known; it may have been taken out` });
  if (problems.length > 0) return { settings: null, problems };
  return {
    settings: {
      ...hand,
      markets,
      currency: saved.markets === undefined ? hand.currency : (first?.currency ?? hand.currency),
      benchmark: hand.benchmark !== null && !symbols.includes(hand.benchmark) ? symbols[0] : hand.benchmark,
      from: saved.dates === undefined ? hand.from : (saved.dates.from ?? null),
      to: saved.dates === undefined ? hand.to : (saved.dates.to ?? null),
      capital: saved.capital ?? hand.capital,
      leverage: saved.leverage ?? hand.leverage,
      marketLimit: saved.marketLimit === undefined ? hand.marketLimit : saved.marketLimit === "none" ? null : saved.marketLimit,
      onLackOfMargin: saved.onLackOfMargin ?? hand.onLackOfMargin,
      haltBelowPercent: saved.haltBelowPercent ?? hand.haltBelowPercent,
      costs: costs!,
      intrabar: saved.intrabar ?? hand.intrabar,
      fineTimeframe: fine.value,
      roundToTick: saved.roundToTick ?? hand.roundToTick,
      closeAtEnd: saved.closeAtEnd ?? hand.closeAtEnd,
    },
    problems: [],
  };
}

function costsOf(saved: SavedCosts | undefined, hand: Costs, own: Costs | null): Costs | null {
  if (saved === undefined) return hand;
  if (saved.of === "figures") return saved.figures;
  const base = saved.of === "hand" ? hand : own;
  return base === null ? null : timesCosts(base, saved.times);
}

/** The finer timeframe that decides inside bars; `finest` is the coarsest of the markets' finest, since all need it. */
function fineOf(
  saved: string | undefined,
  hand: string | null,
  timeframe: string,
  symbols: readonly string[],
  know: (symbol: string) => KnownMarket | null,
): { value: string | null; problem: string | null } {
  if (saved === undefined) return { value: hand, problem: null };
  if (saved === "none") return { value: null, problem: null };
  if (saved !== "finest") return { value: saved, problem: null };
  const own: Timeframe = parseTimeframe(timeframe)!;
  const coarsest = symbols
    .flatMap((symbol) => know(symbol)?.finest ?? [])
    .map((finest) => parseTimeframe(finest)!)
    .sort(compareTimeframes)
    .at(-1);
  if (coarsest === undefined || compareTimeframes(coarsest, own) >= 0)
    return { value: null, problem: `there are no bars finer than the strategy's ${timeframe}` };
  return { value: formatTimeframe(coarsest), problem: null };
}

/** The symbols of run settings' markets, with commas. */
export const symbolsOf = ({ markets }: Pick<Settings, "markets">): string => markets.map(({ symbol }) => symbol).join(",");
