import type { Trade } from "#core/documents";
import { grouper, type Grouping, type MarketFacts } from "#core/reading";
import { TRADE_COLUMNS } from "./trade-columns";

/** Trades in the order of a column: its key, with a minus for descending. What has no value comes last, ties stay in the order of ids. */
export function sortedTrades(trades: readonly Trade[], sort: string): Trade[] {
  const column = TRADE_COLUMNS.find(({ key }) => key === sort.replace(/^-/, "")) ?? TRADE_COLUMNS[0];
  const sign = sort.startsWith("-") ? -1 : 1;
  const keys = numbers(trades.map(column.value));
  const order = Uint32Array.from(trades, (_, i) => i);
  order.sort((a, b) => {
    const [x, y] = [keys[a], keys[b]];
    if (x < y) return -sign;
    if (x > y) return sign;
    // equal, or one of them (or both) without a value
    return x === y || (x !== x && y !== y) ? trades[a].id - trades[b].id : x !== x ? 1 : -1;
  });
  return Array.from(order, (i) => trades[i]);
}

/** Values as numbers that sort alike: words by their place in the alphabet. */
function numbers(values: readonly (number | string)[]): Float64Array {
  if (typeof values[0] !== "string") return Float64Array.from(values as number[]);
  const places = new Map([...new Set(values)].sort().map((word, place) => [word, place]));
  return Float64Array.from(values, (word) => places.get(word)!);
}

/** A line of the trade table: a trade, or the head of a group with what its trades come to. */
export type TradeLine = { trade: Trade } | { group: TradeSubtotal };

export interface TradeSubtotal {
  key: string;
  count: number;
  winners: number;
  net: number;
  closed: boolean;
}

/** Trades in groups, each in the order given, behind a head with its subtotal. Trades of `closed` groups are left out, open trades come last. */
export function groupedLines(sorted: readonly Trade[], by: Grouping, facts: MarketFacts, closed: ReadonlySet<string>): TradeLine[] {
  const keyOf = grouper(by, facts);
  const groups = new Map<string, { order: number; trades: Trade[] }>();
  for (const trade of sorted) {
    const [order, key] = trade.open ? [Infinity, "still open"] : keyOf(trade);
    const group = groups.get(key);
    if (group === undefined) groups.set(key, { order, trades: [trade] });
    else group.trades.push(trade);
  }
  return [...groups]
    .map(([key, { order, trades }]) => ({ key, order, trades, net: trades.reduce((sum, trade) => sum + trade.net, 0) }))
    .sort((a, b) => (a.order === b.order ? b.net - a.net : a.order - b.order))
    .flatMap(({ key, trades, net }): TradeLine[] => {
      const shut = closed.has(key);
      const winners = trades.filter((trade) => !trade.open && trade.net > 0).length;
      const head: TradeLine = { group: { key, count: trades.length, winners, net, closed: shut } };
      return shut ? [head] : [head, ...trades.map((trade) => ({ trade }))];
    });
}
