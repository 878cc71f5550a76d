import type { Trade } from "#core/documents";
import { grouper, orderOf, type Grouping, type MarketFacts } from "#core/reading";
import { TRADE_COLUMNS } from "./trade-columns";

/** Trades in the order of a column: its key, with a minus for descending. What has no value comes last, ties stay as they were. */
export function sortedTrades(trades: readonly Trade[], sort: string): Trade[] {
  const column = TRADE_COLUMNS.find(({ key }) => key === sort.replace(/^-/, "")) ?? TRADE_COLUMNS[0];
  const order = orderOf(numbers(trades, column.value), sort.startsWith("-"));
  return Array.from(order, (i) => trades[i]);
}

/** Values as numbers that sort alike: words by their place in the alphabet. */
function numbers(trades: readonly Trade[], value: (trade: Trade) => number | string): Float64Array {
  const out = new Float64Array(trades.length);
  if (trades.length === 0 || typeof value(trades[0]) === "number") {
    for (let i = 0; i < out.length; i++) out[i] = value(trades[i]) as number;
    return out;
  }
  const words = trades.map(value);
  const places = new Map([...new Set(words)].sort().map((word, place) => [word, place]));
  for (let i = 0; i < out.length; i++) out[i] = places.get(words[i])!;
  return out;
}

/** A line of the trade table: a trade, or the head of a group with what its trades come to. */
export type TradeLine = Trade | TradeSubtotal;

export interface TradeSubtotal {
  subtotal: true;
  key: string;
  count: number;
  winners: number;
  net: number;
  closed: boolean;
}

export const isSubtotal = (line: TradeLine): line is TradeSubtotal => "subtotal" in line;

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
      const head: TradeLine = { subtotal: true, key, count: trades.length, winners, net, closed: shut };
      return shut ? [head] : [head, ...trades];
    });
}
