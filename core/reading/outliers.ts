import type { Trade } from "#core/documents";
import { percentile } from "#core/metrics";

/** Trades that stand apart from their kind, and the percent results beyond which they do; null where there is no bound. */
export interface StandingApart {
  good: number[];
  bad: number[];
  above: number | null;
  below: number | null;
}

/** Fewer of a kind tell nothing about what is usual among them. */
const LEAST = 8;

/**
 * Closed trades whose percent result lies beyond the quartile plus three times the distance between the quartiles (Tukey
 * 1977, *Exploratory Data Analysis*, "far out"), separately among winners and among losers: freak winners hide among the
 * ordinary ones otherwise. Ids, the farthest first.
 */
export function standingApart(trades: readonly Trade[]): StandingApart {
  const closed = trades.filter((trade) => !trade.open && trade.percent !== null);
  const kind = (sign: 1 | -1) => closed.filter((trade) => sign * trade.net > 0);
  const bound = (of: readonly Trade[], sign: 1 | -1): number | null => {
    if (of.length < LEAST) return null;
    const size = of.map((trade) => sign * trade.percent!);
    const [low, high] = [percentile(size, 25), percentile(size, 75)];
    return sign * (high + 3 * (high - low));
  };
  const [winners, losers] = [kind(1), kind(-1)];
  const [above, below] = [bound(winners, 1), bound(losers, -1)];
  const farthest = (a: Trade, b: Trade) => Math.abs(b.percent!) - Math.abs(a.percent!);
  return {
    good: above === null ? [] : ids(winners.filter((trade) => trade.percent! > above).sort(farthest)),
    bad: below === null ? [] : ids(losers.filter((trade) => trade.percent! < below).sort(farthest)),
    above,
    below,
  };
}

const ids = (trades: readonly Trade[]): number[] => trades.map((trade) => trade.id);
