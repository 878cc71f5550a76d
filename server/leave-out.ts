import type { Settings } from "#core/documents";
import type { MarketList } from "./market-lists";
import type { Origin } from "./optimizations";
import { Refused } from "./problem";

/** Run settings without the markets of an exclusion list, and what it took out; refused where it leaves none. */
export function leaveOut(
  settings: Settings,
  list: Pick<MarketList, "name" | "symbols"> | null,
): { settings: Settings; without: Origin["without"] } {
  // what is no list of markets is said where settings are read
  if (list === null || !Array.isArray(settings?.markets)) return { settings, without: null };
  const out = new Set(list.symbols);
  const markets = settings.markets.filter((market) => !out.has(market.symbol));
  const symbols = settings.markets.filter((market) => out.has(market.symbol)).map((market) => market.symbol);
  if (markets.length === 0)
    throw new Refused([
      { path: "exclusion list", message: `“${list.name}” leaves none of ${symbols.join(", ")}; choose another list, or more markets` },
    ]);
  const { benchmark } = settings;
  return {
    settings: { ...settings, markets, benchmark: benchmark !== null && out.has(benchmark) ? markets[0].symbol : benchmark },
    without: { list: list.name, symbols },
  };
}
