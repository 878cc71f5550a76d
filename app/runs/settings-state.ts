import { readSettings, type DocumentProblem, type Settings, type SettingsMarket } from "#core/documents";
import { settingsMarket } from "#server/market-source";
import type { MarketView } from "#server/markets";

/** Run settings as a form holds them: texts, as typed. */
export interface SettingsState {
  market: string;
  from: string;
  to: string;
  capital: string;
  leverage: string;
  perUnit: string;
  perOrder: string;
  percent: string;
  minimum: string;
  spreadTicks: string;
  slippageTicks: string;
  financingLongPercent: string;
  financingShortPercent: string;
  intrabar: string;
  closeAtEnd: string;
  /** symbols of further markets on the same account, with commas */
  others: string;
  marketLimit: string;
  onLackOfMargin: string;
  fineTimeframe: string;
  haltBelowPercent: string;
  roundToTick: string;
}

/** Symbols of a list with commas. */
export const symbolsOf = (text: string): string[] => text.split(",").filter((symbol) => symbol !== "");

export const COST_KEYS = [
  "perUnit",
  "perOrder",
  "percent",
  "minimum",
  "spreadTicks",
  "slippageTicks",
  "financingLongPercent",
  "financingShortPercent",
] as const;

/** Where run settings start from: the market's own costs, all its bars, a quarter of a million. */
export function startSettings(market: MarketView | undefined): SettingsState {
  const costs = market?.costs;
  const text = (key: (typeof COST_KEYS)[number]) => String(costs?.[key] ?? 0);
  return {
    market: market?.symbol ?? "",
    from: "",
    to: "",
    capital: "250000",
    leverage: "1",
    perUnit: text("perUnit"),
    perOrder: text("perOrder"),
    percent: text("percent"),
    minimum: text("minimum"),
    spreadTicks: text("spreadTicks"),
    slippageTicks: text("slippageTicks"),
    financingLongPercent: text("financingLongPercent"),
    financingShortPercent: text("financingShortPercent"),
    intrabar: "pessimistic",
    closeAtEnd: "no",
    others: "",
    marketLimit: "",
    onLackOfMargin: "reduce",
    fineTimeframe: "",
    haltBelowPercent: "0",
    roundToTick: "no",
  };
}

/** The state that stored run settings came from. */
export function stateOfSettings(settings: Settings): SettingsState {
  return {
    market: settings.markets[0].symbol,
    from: settings.from ?? "",
    to: settings.to ?? "",
    capital: String(settings.capital),
    leverage: String(settings.leverage),
    ...(Object.fromEntries(COST_KEYS.map((key) => [key, String(settings.costs[key])])) as Record<(typeof COST_KEYS)[number], string>),
    intrabar: settings.intrabar,
    closeAtEnd: settings.closeAtEnd ? "yes" : "no",
    others: settings.markets
      .slice(1)
      .map((market) => market.symbol)
      .join(","),
    marketLimit: settings.marketLimit === null ? "" : String(settings.marketLimit),
    onLackOfMargin: settings.onLackOfMargin,
    fineTimeframe: settings.fineTimeframe ?? "",
    haltBelowPercent: String(settings.haltBelowPercent),
    roundToTick: settings.roundToTick ? "yes" : "no",
  };
}

const KEYS = Object.keys(startSettings(undefined)) as (keyof SettingsState)[];

/** Lays the address's values over a state. */
export function withAddress(state: SettingsState, params: URLSearchParams): SettingsState {
  const next = { ...state };
  for (const key of KEYS) {
    const value = params.get(key);
    if (value !== null) next[key] = value;
  }
  return next;
}

/** Writes what differs from `base` into the address, and takes out what does not. */
export function toAddress(state: SettingsState, base: SettingsState, params: URLSearchParams): URLSearchParams {
  const next = new URLSearchParams(params);
  for (const key of KEYS) {
    if (state[key] === base[key]) next.delete(key);
    else next.set(key, state[key]);
  }
  return next;
}

/**
 * `canyon.settings/1` of a state, or what is wrong with it, by field; the bars from the sources that serve the strategy's
 * timeframe. `series`: extra series by symbol; `all`: every market there is, for the further ones.
 */
export function settingsOf(
  state: SettingsState,
  market: MarketView | undefined,
  timeframe?: string,
  series: Readonly<Record<string, SettingsMarket["series"]>> = {},
  all: readonly MarketView[] = [],
): { settings: Settings; problems: [] } | { settings: null; problems: DocumentProblem[] } {
  if (market === undefined)
    return {
      settings: null,
      problems: [
        {
          path: "market",
          message: state.market === "" ? "choose a market" : `there is no market ${state.market}; it may have been deleted`,
        },
      ],
    };
  const problems: DocumentProblem[] = [];
  const number = (key: keyof SettingsState): number => {
    const text = state[key].trim().replace(/[\s,]/g, "");
    const value = text === "" ? NaN : Number(text);
    if (!Number.isFinite(value))
      problems.push({ path: key, message: state[key].trim() === "" ? "a number is missing" : `“${state[key]}” is not a number` });
    return value;
  };
  const others = symbolsOf(state.others).filter((symbol) => symbol !== market.symbol);
  const further = others.map((symbol) => all.find((one) => one.symbol === symbol));
  further.forEach((one, i) => {
    if (one === undefined) problems.push({ path: "others", message: `there is no market ${others[i]}; it may have been deleted` });
  });
  const given = {
    format: "canyon.settings/1",
    markets: [market, ...further.filter((one) => one !== undefined)].map((one) => ({
      // finer bars decide from the same source that the strategy's are made of
      ...settingsMarket(one, state.fineTimeframe || timeframe),
      ...(series[one.symbol] ? { series: series[one.symbol] } : {}),
    })),
    from: state.from || null,
    to: state.to || null,
    capital: number("capital"),
    currency: market.currency,
    leverage: number("leverage"),
    costs: Object.fromEntries(COST_KEYS.map((key) => [key, number(key)])),
    intrabar: state.intrabar,
    closeAtEnd: state.closeAtEnd === "yes",
    marketLimit: state.marketLimit.trim() === "" ? null : number("marketLimit"),
    onLackOfMargin: state.onLackOfMargin,
    fineTimeframe: state.fineTimeframe || null,
    haltBelowPercent: number("haltBelowPercent"),
    roundToTick: state.roundToTick === "yes",
    benchmark: market.symbol,
  };
  if (problems.length > 0) return { settings: null, problems };
  const read = readSettings(given);
  if (read.value === null)
    return { settings: null, problems: read.problems.map(({ path, message }) => ({ path: path.split(".").at(-1)!, message })) };
  return { settings: read.value, problems: [] };
}
