import { useCallback, useMemo } from "react";
import { useSearchParams } from "react-router";
import type { DocumentProblem, Settings } from "#core/documents";
import type { MarketView } from "#server/markets";
import { useSeriesOf } from "~/markets/use-series";
import { settingsOf, startSettings, symbolsOf, toAddress, withAddress, type SettingsState } from "./settings-state";

export interface RunSettings {
  state: SettingsState;
  setState: (next: SettingsState) => void;
  /** another market: its own costs, the same dates and capital */
  setMarket: (symbol: string) => void;
  market: MarketView | undefined;
  settings: Settings | null;
  problems: DocumentProblem[];
}

/** Run settings that live in the address, laid over those that a version was last looked at with. `extras`: whether rules name extra series. */
export function useRunSettings(
  markets: readonly MarketView[],
  last: SettingsState | null,
  timeframe: string,
  extras: boolean,
): RunSettings {
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
  const state = useMemo(() => {
    const symbol = params.get("market");
    const known = symbol !== null && symbol !== base.market && markets.some((market) => market.symbol === symbol);
    return withAddress(known ? carried(symbol, base) : base, params);
  }, [base, params, markets, carried]);
  const setState = useCallback(
    (next: SettingsState) => setParams((before) => toAddress(next, base, before), { replace: true, preventScrollReset: true }),
    [setParams, base],
  );
  const market = markets.find((m) => m.symbol === state.market);
  const symbols = useMemo(() => [state.market, ...symbolsOf(state.others)], [state.market, state.others]);
  const series = useSeriesOf(symbols, extras);
  const chosen = useMemo(
    () => settingsOf(state, market, timeframe, extras ? (series ?? {}) : {}, markets),
    [state, market, timeframe, series, extras, markets],
  );
  const waiting = extras && series === null;
  return {
    state,
    setState,
    setMarket: (symbol) => setState(carried(symbol, state)),
    market,
    settings: waiting ? null : chosen.settings,
    problems: waiting ? [] : chosen.problems,
  };
}
