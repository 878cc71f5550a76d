import type { OrderRecord } from "#core/documents";
import type { SignalLevels } from "./levels";

/** An entry order from its signal's close until it fills or ends. */
export interface EntryOrder {
  side: 1 | -1;
  type: "market" | "stop" | "limit";
  units: number;
  /** what it was sized by and ties up margin at: its own price, or the signal's close for a market order */
  price: number;
  signalRow: number;
  /** a market order that fills at its signal's close */
  atClose: boolean;
  /** a limit order that fills only where the bar goes beyond its price */
  through: boolean;
  /** bars that it still works */
  barsLeft: number;
  /** orders count from 1 as they are formed; the smaller one is older */
  age: number;
  /** bar (or fine bar, numbered through) in which it can't fill any more, since it was touched against an open position */
  barredIn: number;
  /** levels that formulas gave at the signal */
  levels: SignalLevels;
  record: OrderRecord | null;
}

/** Whether a price, on the order's own side, satisfies the order: a stop from beyond, a limit from within. */
export function satisfies(order: EntryOrder, price: number, epsilon: number): boolean {
  if (order.type === "stop") return order.side * (price - order.price) >= -epsilon;
  const better = order.side * (order.price - price);
  return order.through ? better > epsilon : better >= -epsilon;
}

/** Where an order fills that the open satisfies: there, or at its own price where rounding puts the open a hair short of it. */
export function openingFill(order: EntryOrder, open: number): number {
  if (order.type === "market") return open;
  const higher = (order.type === "stop") === (order.side === 1);
  return higher ? Math.max(open, order.price) : Math.min(open, order.price);
}
