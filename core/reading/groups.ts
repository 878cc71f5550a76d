import { DAY, formatMonth, monthOf, weekdayOf, Zone } from "#core/bars";
import { entryMoment, exitMoment, type Metrics, type Trade } from "#core/documents";
import { columnsOfTrades, tradeMetrics } from "#core/metrics";

/** What trades can be put together by. Times are those of the entry in the market's zone, but for year and month: those of the exit. */
export const GROUPINGS = ["market", "sector", "side", "reason", "year", "month", "weekday", "hour"] as const;
export type Grouping = (typeof GROUPINGS)[number];

export interface TradeGroup {
  key: string;
  trades: number;
  net: number;
  /** share of the net of all groups; null where that is not above 0 */
  share: number | null;
  figures: Metrics;
}

const WEEKDAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

/** Figures of some trades alone: what rests on trades. `days`: the run's length. Open trades count by their value. */
export function figuresOf(trades: readonly Trade[], capital: number, days: number): Metrics {
  let count = 0;
  let net = 0;
  for (const trade of trades)
    if (trade.open) {
      count++;
      net += trade.net;
    }
  return tradeMetrics(columnsOfTrades(trades), { count, net }, capital, days);
}

/** What grouping needs to know of markets beside their trades. */
export interface MarketFacts {
  zoneOf?: (symbol: string) => string;
  sectorOf?: (symbol: string) => string;
}

/** The group that a closed trade belongs to, with the group's place among the others (groups of one place: the largest net first). */
export function grouper(by: Grouping, { zoneOf = () => "UTC", sectorOf = () => "other" }: MarketFacts = {}) {
  const zones = new Map<string, Zone>();
  /** the entry on the clocks of the market's zone */
  const entered = (trade: Trade): number => {
    const name = zoneOf(trade.symbol);
    let zone = zones.get(name);
    if (zone === undefined) zones.set(name, (zone = new Zone(name)));
    const at = entryMoment(trade);
    return at + zone.offset(at);
  };
  return (trade: Trade): [order: number, key: string] => {
    switch (by) {
      case "market":
        return [0, trade.symbol];
      case "sector":
        return [0, sectorOf(trade.symbol)];
      case "side":
        return [trade.side === "long" ? 0 : 1, trade.side];
      case "reason":
        return [0, trade.exitReason!];
      case "year": {
        const year = Math.floor(monthOf(Math.floor(exitMoment(trade) / DAY)) / 12) + 1970;
        return [year, String(year)];
      }
      case "month": {
        const month = monthOf(Math.floor(exitMoment(trade) / DAY));
        return [month, formatMonth(month)];
      }
      case "weekday": {
        const day = weekdayOf(Math.floor(entered(trade) / DAY));
        return [day, WEEKDAYS[day - 1]];
      }
      case "hour": {
        const hour = Math.floor((entered(trade) % DAY) / (DAY / 24));
        return [hour, `${String(hour).padStart(2, "0")}:00`];
      }
    }
  };
}

/** Closed trades put together by a key, in the key's order (markets and the like: the largest net first). */
export function groupsOf(trades: readonly Trade[], by: Grouping, capital: number, days: number, facts: MarketFacts = {}): TradeGroup[] {
  const keyOf = grouper(by, facts);
  const groups = new Map<string, { order: number; trades: Trade[] }>();
  for (const trade of trades) {
    if (trade.open) continue;
    const [order, key] = keyOf(trade);
    const group = groups.get(key);
    if (group === undefined) groups.set(key, { order, trades: [trade] });
    else group.trades.push(trade);
  }
  const all = trades.reduce((sum, trade) => sum + (trade.open ? 0 : trade.net), 0);
  return [...groups]
    .map(([key, group]) => {
      const net = group.trades.reduce((sum, trade) => sum + trade.net, 0);
      const figures = figuresOf(group.trades, capital, days);
      return { order: group.order, key, trades: group.trades.length, net, share: all > 0 ? net / all : null, figures };
    })
    .sort((a, b) => a.order - b.order || b.net - a.net || (a.key < b.key ? -1 : 1))
    .map(({ order: _order, ...group }) => group);
}
