import { insideBy, type Account } from "./account";
import type { Leg } from "./leg";
import { openingFill, satisfies, type EntryOrder } from "./orders";
import { walkPath } from "./walk-path";
import { AT_OPEN, BY_LIMIT, TARGET } from "./trade-log";

/** A bar, or a fine bar inside one: mid prices, and a number of its own that orders remember it by. */
export interface Stretch {
  open: number;
  high: number;
  low: number;
  close: number;
  number: number;
}

/** What happens inside bars: protective exits against their range, and working orders. One of these serves a whole run. */
export class InsideBar {
  /** (market, bar) pairs in which the mode had to decide */
  ambiguousBars = 0;
  private ambiguous = false;
  private readonly bar: Stretch = { open: NaN, high: NaN, low: NaN, close: NaN, number: 0 };
  private readonly left: number[] = [];
  private numbered = 0;

  constructor(private readonly account: Account) {}

  /** A new bar begins: gives the number that its orders are barred by. */
  begin(): number {
    return ++this.numbered;
  }

  /** The gap check: what lies at or beyond a level at the open leaves there. */
  gap(leg: Leg, open: number): void {
    const { log } = this.account;
    const exit = open - leg.side * leg.halfSpread;
    const { side } = leg;
    for (let i = 0; i < leg.open.length;) {
      const trade = leg.open[i];
      if (side * (exit - log.stop[trade]) <= leg.epsilon) this.account.leave(leg, trade, exit, true, log.stopReason[trade], false);
      else if (side * (exit - log.target[trade]) >= -leg.epsilon) this.account.leave(leg, trade, exit, false, TARGET, false);
      else i++;
    }
  }

  /** Working orders that the open satisfies fill there, the older one first; against an open position under `ignore` they are barred. */
  openOrders(leg: Leg, open: number, number: number, fine: boolean): void {
    for (let i = 0; i < leg.orders.length;) {
      const order = leg.orders[i];
      const own = open + order.side * leg.halfSpread;
      if (order.type === "market" || !satisfies(order, own, leg.epsilon)) {
        i++;
        continue;
      }
      if (leg.side === -order.side && leg.onOpposite === "ignore") {
        order.barredIn = number;
        i++;
        continue;
      }
      this.account.enter(leg, order, openingFill(order, own), fine ? insideBy(order) : AT_OPEN);
      i = 0;
    }
  }

  /** Phase 2 of a leg's bar: by finer bars where there are any, else by the mode. `number` is the one that its open had. */
  within(leg: Leg, number: number): void {
    const { bars, fine } = leg.market;
    const { row } = leg;
    if (!this.stirs(leg, bars.high[row], bars.low[row])) return;
    this.ambiguous = false;
    if (fine === null) {
      this.take(bars.open[row], bars.high[row], bars.low[row], bars.close[row], number);
      this.decide(leg);
    } else {
      const { bars: small, from } = fine;
      const [first, end] = [from[row], from[row + 1]];
      for (let k = first; k < end && (leg.side !== 0 || leg.orders.length > 0); k++) {
        this.take(small.open[k], small.high[k], small.low[k], small.close[k], k === first ? number : this.begin());
        if (k > first) {
          if (leg.side !== 0) this.gap(leg, this.bar.open);
          if (leg.orders.length > 0) this.openOrders(leg, this.bar.open, this.bar.number, true);
        }
        if (leg.side !== 0 || leg.orders.length > 0) this.decide(leg);
      }
    }
    if (this.ambiguous) this.ambiguousBars++;
  }

  private take(open: number, high: number, low: number, close: number, number: number): void {
    const { bar } = this;
    bar.open = open;
    bar.high = high;
    bar.low = low;
    bar.close = close;
    bar.number = number;
  }

  /** Whether anything can happen in a range of mid prices at all: most bars touch nothing. */
  private stirs(leg: Leg, high: number, low: number): boolean {
    const { log } = this.account;
    const slack = 2 * leg.epsilon + leg.halfSpread;
    for (const trade of leg.open) {
      const [stop, target] = [log.stop[trade], log.target[trade]];
      if (leg.side === 1 ? low - slack <= stop || high + slack >= target : high + slack >= stop || low - slack <= target) return true;
    }
    for (const order of leg.orders) if (order.type !== "market" && low - slack <= order.price && high + slack >= order.price) return true;
    return false;
  }

  private decide(leg: Leg): void {
    if (!this.ambiguous) this.ambiguous = this.bothInRange(leg);
    if (this.account.rules.intrabar === "path") {
      if (walkPath(this.account, leg, this.bar)) this.ambiguous = true;
    } else this.byMode(leg, this.account.rules.intrabar === "optimistic");
  }

  /** Whether, for some trade, both levels lie in the bar's range, or both sides' working orders do. */
  private bothInRange(leg: Leg): boolean {
    for (const trade of leg.open) if (tradeUndecided(this.account, leg, trade, this.bar)) return true;
    let touched = 0;
    for (const order of leg.orders) if (inRange(leg, order, this.bar)) touched++;
    return touched > 1;
  }

  /** Exits of what is open first, then working orders, the one nearer to the open of its own side first. */
  private byMode(leg: Leg, optimistic: boolean): void {
    const { account, bar, left } = this;
    const { log } = account;
    left.length = 0;
    const { side, epsilon } = leg;
    const shift = side * leg.halfSpread;
    const worst = (side === 1 ? bar.low : bar.high) - shift;
    const best = (side === 1 ? bar.high : bar.low) - shift;
    for (let i = 0; i < leg.open.length;) {
      const trade = leg.open[i];
      const stopped = side * (worst - log.stop[trade]) <= epsilon;
      const beyond = side * (best - log.target[trade]);
      const reached = optimistic ? beyond >= -epsilon : beyond > epsilon;
      if (stopped && !(reached && optimistic)) this.leave(leg, trade, log.stop[trade], true);
      else if (reached) this.leave(leg, trade, log.target[trade], false);
      else i++;
    }
    const tried: EntryOrder[] = [];
    for (;;) {
      const order = nearest(leg, bar, tried);
      if (order === null) return;
      tried.push(order);
      if (order.barredIn === bar.number || (leg.side === -order.side && leg.onOpposite === "ignore")) continue;
      if (leg.onOpposite === "ignore" && barred(leg, order, bar.open, left)) continue;
      const trade = account.enter(leg, order, order.price, insideBy(order));
      if (log.reason[trade] === 0) this.entryBarExits(leg, trade, optimistic);
    }
  }

  private leave(leg: Leg, trade: number, level: number, stopped: boolean): void {
    this.account.leave(leg, trade, level, stopped, stopped ? this.account.log.stopReason[trade] : TARGET, false);
    this.left.push(level);
  }

  /**
   * Exits of a trade that was entered inside this bar. Pessimistic: one for the worse that may have come after the entry is
   * taken, one for the better only if it must have. Optimistic: the other way round.
   */
  private entryBarExits(leg: Leg, trade: number, optimistic: boolean): void {
    const { account, bar } = this;
    const { log } = account;
    const { side, epsilon } = leg;
    const shift = side * leg.halfSpread;
    const worst = (side === 1 ? bar.low : bar.high) - shift;
    const best = (side === 1 ? bar.high : bar.low) - shift;
    const last = bar.close - shift;
    const [stop, target] = [log.stop[trade], log.target[trade]];
    const byLimit = log.how[trade] === BY_LIMIT;
    if (!this.ambiguous) this.ambiguous = tradeUndecided(account, leg, trade, bar);
    let stopped: boolean;
    let reached: boolean;
    if (optimistic) {
      reached = side * (best - target) >= -epsilon;
      stopped = side * ((byLimit ? worst : last) - stop) <= epsilon;
    } else {
      stopped = side * (worst - stop) <= epsilon;
      reached = side * ((byLimit ? last : best) - target) > epsilon;
    }
    if (stopped && !(reached && optimistic)) this.leave(leg, trade, stop, true);
    else if (reached) this.leave(leg, trade, target, false);
  }
}

/** Whether a trade's stop-kind level and target (when pessimistic: a price beyond it) are both in the bar's range. */
export function tradeUndecided({ log, rules }: Account, leg: Leg, trade: number, bar: Stretch): boolean {
  const { side, epsilon } = leg;
  const shift = side * leg.halfSpread;
  const worst = (side === 1 ? bar.low : bar.high) - shift;
  const beyond = side * ((side === 1 ? bar.high : bar.low) - shift - log.target[trade]);
  return side * (worst - log.stop[trade]) <= epsilon && (rules.intrabar === "pessimistic" ? beyond > epsilon : beyond >= -epsilon);
}

/** Whether a bar's range, on the order's own side, reaches a working order. */
export function inRange(leg: Leg, order: EntryOrder, bar: Stretch): boolean {
  if (order.type === "market") return false;
  const up = (order.type === "stop") === (order.side === 1);
  return satisfies(order, (up ? bar.high : bar.low) + order.side * leg.halfSpread, leg.epsilon);
}

/** The working order in range that is nearest to the open of its own side and not tried yet; the older one where two are as near. */
function nearest(leg: Leg, bar: Stretch, tried: readonly EntryOrder[]): EntryOrder | null {
  let found: EntryOrder | null = null;
  let distance = Infinity;
  for (const order of leg.orders) {
    if (tried.includes(order) || !inRange(leg, order, bar)) continue;
    const away = Math.abs(order.price - (bar.open + order.side * leg.halfSpread));
    if (away < distance - leg.epsilon) {
      found = order;
      distance = away;
    }
  }
  return found;
}

/** Whether an order's price lies between the open (included) and a level (not included) at which the position left inside the bar. */
export function barred(leg: Leg, order: EntryOrder, open: number, left: readonly number[]): boolean {
  const own = open + order.side * leg.halfSpread;
  const { price } = order;
  const { epsilon } = leg;
  return left.some((level) =>
    level > own ? price >= own - epsilon && price < level - epsilon : price <= own + epsilon && price > level + epsilon,
  );
}
