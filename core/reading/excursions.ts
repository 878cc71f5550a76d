import type { Trade } from "#core/documents";

/** How far a closed trade went against its side and with it, and what it came to, in percent of its notional at the entry. */
export interface ExcursionPoint {
  id: number;
  against: number;
  with: number;
  result: number;
}

/** Percent excursions of closed trades; `pointValue` by symbol. Trades at a price of 0 have none. */
export function excursionsOf(trades: readonly Trade[], pointValue: (symbol: string) => number): ExcursionPoint[] {
  return trades.flatMap((trade) => {
    const notional = Math.abs(trade.entryPrice) * trade.units * pointValue(trade.symbol);
    if (trade.open || !(notional > 0)) return [];
    const share = (money: number) => (100 * money) / notional;
    return [{ id: trade.id, against: -share(trade.mae), with: share(trade.mfe), result: share(trade.net) }];
  });
}

/** What a stop at a distance would have made of the trades. */
export interface StopLevel {
  /** percent from the entry */
  distance: number;
  /** trades that went so far against their side */
  stopped: number;
  /** percent that stopped losers would have lost less, and that stopped trades would have lost or won instead less */
  saved: number;
  cost: number;
  /** sum of the results in percent, stopped trades at the distance */
  total: number;
}

/**
 * The results with a stop at each of some distances: a trade that went so far against its side leaves there. This leaves
 * out gaps, costs of the exit and the trades that would have come in its place, so it is a look and not a backtest.
 */
export function stopLadder(points: readonly ExcursionPoint[], distances: readonly number[]): StopLevel[] {
  return distances.map((distance) => {
    let stopped = 0;
    let saved = 0;
    let cost = 0;
    let total = 0;
    for (const { against, result } of points) {
      if (against < distance) {
        total += result;
        continue;
      }
      stopped++;
      total -= distance;
      const change = -distance - result;
      if (change > 0) saved += change;
      else cost -= change;
    }
    return { distance, stopped, saved, cost, total };
  });
}

/** Distances worth looking at: a dozen, up to the deepest excursion but for the farthest twentieth. */
export function laddersOf(points: readonly ExcursionPoint[], steps = 12): number[] {
  const sorted = points.map(({ against }) => against).sort((a, b) => a - b);
  const most = sorted[Math.floor(0.95 * (sorted.length - 1))] ?? 0;
  return most > 0 ? Array.from({ length: steps }, (_, k) => (most * (k + 1)) / steps) : [];
}
