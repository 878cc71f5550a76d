import { firstAtOrAfter, type Bars } from "#core/bars";
import { entryMoment, exitMoment, type Trade } from "#core/documents";
import type { TradeSpan } from "~/charts/price-bars";
import { signed, signedMoney } from "~/design/format";

/** Trades as spans on a market's bars; R at the end where there is a stop, money else. */
export function spansOf(
  trades: readonly Trade[],
  bars: Bars,
  levels: readonly { stop: number | null; target: number | null }[] = [],
): TradeSpan[] {
  return trades.map((trade, i) => ({
    id: trade.id,
    side: trade.side,
    entryRow: firstAtOrAfter(bars.time, entryMoment(trade)),
    exitRow: trade.open ? bars.length - 1 : firstAtOrAfter(bars.time, exitMoment(trade)),
    entryPrice: trade.entryPrice,
    exitPrice: trade.exitPrice,
    net: trade.net,
    label: () => `${trade.side} ${trade.r === null ? signedMoney(trade.net) : `${signed(trade.r, 2)} R`}`,
    stop: levels[i]?.stop ?? null,
    target: levels[i]?.target ?? null,
  }));
}

/** Rows that show a trade with air on both sides. */
export function viewAround(span: TradeSpan | undefined, bars: Bars): [number, number] | undefined {
  if (span === undefined) return undefined;
  const air = Math.max(25, Math.round((span.exitRow - span.entryRow) * 0.5));
  return [Math.max(-3, span.entryRow - air), Math.min(bars.length + 10, span.exitRow + air + 12)];
}
