import { settingsMarket, type MarketView } from "./markets";
import type { VersionView } from "./strategies";

/** The run settings of a new probe: the version's own, over all its dates, or plain ones on another market. */
export function probeSettings(version: Pick<VersionView, "settings" | "strategy">, market: MarketView): unknown {
  const { settings: known, strategy } = version;
  if (known !== null && known.markets.length > 1 && known.markets[0].symbol === market.symbol) return { ...known, from: null, to: null };
  const markets = [settingsMarket(market, strategy.timeframe)];
  if (known !== null && known.markets[0].symbol === market.symbol) return { ...known, from: null, to: null, markets };
  return {
    format: "canyon.settings/1",
    markets,
    capital: known?.capital ?? 250_000,
    currency: market.currency,
    costs: market.costs,
    benchmark: market.symbol,
  };
}
