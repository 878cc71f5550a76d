import { useCallback, useMemo } from "react";
import { useSearchParams } from "react-router";
import { compareTimeframes, formatTimeframe, parseTimeframe } from "#core/bars";
import type { DocumentProblem, Settings } from "#core/documents";
import { applySaved, type KnownMarket } from "#core/settings";
import { settingsMarket, sourceFor } from "#server/market-source";
import type { MarketView } from "#server/markets";
import { useSeriesOf } from "~/markets/use-series";
import { fixedFields, type Under } from "~/run-settings/under";
import { settingsOf, startSettings, stateOfSettings, symbolsOf, toAddress, withAddress, type SettingsState } from "./settings-state";

export interface RunSettings {
  /** what the form shows: the settings at hand, with saved ones laid over */
  state: SettingsState;
  setState: (next: SettingsState) => void;
  /** another market: its own costs, the same dates and capital */
  setMarket: (symbol: string) => void;
  /** lays saved run settings over those at hand, or takes them off */
  setUnder: (under: Under | null) => void;
  market: MarketView | undefined;
  settings: Settings | null;
  /** the settings at hand, without saved ones over them */
  hand: Settings | null;
  problems: DocumentProblem[];
}

/** What must be known of a market to lay saved run settings over others. */
export const knowMarket =
  (markets: readonly MarketView[]) =>
  (symbol: string): KnownMarket | null => {
    const view = markets.find((market) => market.symbol === symbol);
    if (view === undefined) return null;
    const timeframes = view.sources.map((source) => parseTimeframe(source.timeframe)!).sort(compareTimeframes);
    return {
      serving: (timeframe) => (sourceFor(view, parseTimeframe(timeframe)!) === null ? null : settingsMarket(view, timeframe)),
      finest: timeframes.length === 0 ? view.timeframe : formatTimeframe(timeframes[0]),
      costs: view.costs,
      currency: view.currency,
    };
  };

interface Given {
  markets: readonly MarketView[];
  /** what a version was last looked at with */
  last: SettingsState | null;
  timeframe: string;
  /** whether rules name extra series */
  extras: boolean;
  /** saved run settings that the address names */
  under?: Under | null;
}

/** Run settings that live in the address, laid over those that a version was last looked at with; saved ones over them. */
export function useRunSettings({ markets, last, timeframe, extras, under = null }: Given): RunSettings {
  const [params, setParams] = useSearchParams();
  const base = useMemo(() => {
    const first = markets.find((market) => market.symbol === last?.market) ?? markets[0];
    return last ?? startSettings(first);
  }, [markets, last]);
  const carried = useCallback(
    (symbol: string, from: SettingsState): SettingsState => ({
      ...startSettings(markets.find((market) => market.symbol === symbol)),
      from: from.from,
      to: from.to,
      capital: from.capital,
    }),
    [markets],
  );
  const own = useMemo(() => {
    const symbol = params.get("market");
    const known = symbol !== null && symbol !== base.market && markets.some((market) => market.symbol === symbol);
    return withAddress(known ? carried(symbol, base) : base, params);
  }, [base, params, markets, carried]);
  const find = useCallback((symbol: string) => markets.find((market) => market.symbol === symbol), [markets]);
  const hand = useMemo(() => settingsOf(own, find(own.market), timeframe, {}, markets), [own, find, timeframe, markets]);
  const laid = useMemo(
    () => (under === null || hand.settings === null ? null : applySaved(under.saved, hand.settings, timeframe, knowMarket(markets))),
    [under, hand, timeframe, markets],
  );
  const state = useMemo(() => (laid?.settings ? stateOfSettings(laid.settings) : own), [laid, own]);
  const market = find(state.market);
  const symbols = useMemo(() => [state.market, ...symbolsOf(state.others)], [state.market, state.others]);
  const series = useSeriesOf(symbols, extras);
  const chosen = useMemo(
    () => settingsOf(state, market, timeframe, extras ? (series ?? {}) : {}, markets),
    [state, market, timeframe, series, extras, markets],
  );

  const write = useCallback(
    (next: SettingsState, keep: boolean) =>
      setParams(
        (before) => {
          const after = toAddress(next, base, before);
          if (!keep) after.delete("under");
          return after;
        },
        { replace: true, preventScrollReset: true },
      ),
    [setParams, base],
  );
  const fixed = useMemo(() => (under === null ? new Set<keyof SettingsState>() : fixedFields(under.saved)), [under]);
  const setState = useCallback(
    (next: SettingsState) => {
      const changed = (Object.keys(next) as (keyof SettingsState)[]).filter((key) => next[key] !== state[key]);
      // what saved settings leave open is changed beside them; what they fix is changed by going on from them by hand
      const beside = !changed.some((key) => fixed.has(key));
      write(beside ? { ...own, ...Object.fromEntries(changed.map((key) => [key, next[key]])) } : next, beside);
    },
    [state, own, fixed, write],
  );
  const waiting = extras && series === null;
  const faults = laid?.settings === null ? laid.problems : chosen.problems;
  return {
    state,
    setState,
    setMarket: (symbol) => write(carried(symbol, fixed.has("market") ? state : own), !fixed.has("market")),
    setUnder: (next) =>
      setParams(
        (before) => {
          const after = new URLSearchParams(before);
          if (next === null) after.delete("under");
          else after.set("under", next.key);
          return after;
        },
        { replace: true, preventScrollReset: true },
      ),
    market,
    settings: waiting || laid?.settings === null ? null : chosen.settings,
    hand: hand.settings,
    problems: waiting ? [] : faults,
  };
}
