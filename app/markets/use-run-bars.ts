import { parseTimeframe, type Bars } from "#core/bars";
import { sourceFor } from "#server/market-source";
import type { MarketView } from "#server/markets";
import { useBars } from "./use-bars";
import { useDerived } from "./use-derived";

/** A market's bars in a strategy's timeframe, as a run on it sees them; null until they are there. */
export function useRunBars(market: MarketView | undefined, timeframe: string): Bars | null {
  const parsed = parseTimeframe(timeframe);
  const source = market === undefined || parsed === null ? null : sourceFor(market, parsed);
  const derived = useDerived(
    source === null ? null : { bars: source.barsHash, timeframe: source.timeframe, session: market!.spec.session },
    timeframe,
  );
  return useBars(derived.bars?.hash ?? null).bars;
}
