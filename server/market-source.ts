import { compareTimeframes, parseTimeframe, resampleFault, type Timeframe } from "#core/bars";
import type { SettingsMarket } from "#core/documents";
import type { MarketView, SourceView } from "./markets";

/** The source that serves a timeframe best: the default one, else the coarsest able one of its name, else any; null where none can. */
export function sourceFor(market: Pick<MarketView, "source" | "sources">, timeframe: Timeframe): SourceView | null {
  const able = market.sources.filter((source) => resampleFault(parseTimeframe(source.timeframe)!, timeframe) === null);
  const rank = (source: SourceView) => (source.isDefault ? 0 : source.name === market.source ? 1 : 2);
  able.sort((a, b) => rank(a) - rank(b) || compareTimeframes(parseTimeframe(b.timeframe)!, parseTimeframe(a.timeframe)!) || a.id - b.id);
  return able[0] ?? null;
}

/** A market as run settings name it, bars by hash, from the source that serves a timeframe (or from the default one). */
export function settingsMarket(market: MarketView, timeframe?: string): SettingsMarket {
  const wanted = timeframe === undefined ? null : parseTimeframe(timeframe);
  const source = wanted === null ? null : sourceFor(market, wanted);
  return { ...market.spec, bars: source?.barsHash ?? market.barsHash, timeframe: source?.timeframe ?? market.timeframe };
}

/** The name under which bars of a source are exported. */
export const barsFileName = (symbol: string, source: string, timeframe: string): string =>
  `${symbol}-${source}-${timeframe}.csv`.replace(/[^A-Za-z0-9_.-]+/g, "-");
