import type { Trade } from "#core/documents";

/** A closed trade in the order of percent results, with the distance to the next one in the list. */
export interface RankedTrade {
  trade: Trade;
  percent: number;
  /** percent points down to the next best (up to the next worst); null for the last one */
  jump: number | null;
}

/**
 * The best (or worst) closed trades by percent result, with the jump from each to the next: money misleads where the
 * account grows. At most `count`.
 */
export function rankedByPercent(trades: readonly Trade[], end: "best" | "worst", count: number): RankedTrade[] {
  const sign = end === "best" ? -1 : 1;
  const known = trades.filter((trade) => !trade.open && trade.percent !== null);
  known.sort((a, b) => sign * (a.percent! - b.percent!) || a.id - b.id);
  return known.slice(0, count).map((trade, i) => ({
    trade,
    percent: trade.percent!,
    jump: i + 1 < known.length ? Math.abs(trade.percent! - known[i + 1].percent!) : null,
  }));
}
