import type { OrderRecord } from "#core/documents";
import type { Leg } from "./leg";
import { setLevels } from "./levels";
import type { EntryOrder } from "./orders";
import type { AccountRules } from "./prepare";
import type { Recorder } from "./recorder";
import { nearestTick } from "./ticks";
import { Tally } from "./tally";
import { AT_CLOSE, BY_LIMIT, BY_STOP, OPPOSITE, REASONS, TARGET, type TradeLog } from "./trade-log";

/** The account of a run: what fills do to the balance, to trades and to orders. It knows nothing of signals and phases. */
export class Account {
  balance: number;
  readonly memberBalance: Float64Array;
  readonly tally: Tally;
  openTrades = 0;
  waiting = 0;
  private formed = 0;

  constructor(
    readonly rules: AccountRules,
    readonly log: TradeLog,
    readonly books: Recorder,
    readonly legs: readonly Leg[],
    members: number,
  ) {
    this.balance = rules.capital;
    this.memberBalance = new Float64Array(members);
    this.tally = new Tally(rules.costs);
  }

  /** Takes a cost off the balance. */
  pay(leg: Leg, cost: number): void {
    this.balance -= cost;
    this.memberBalance[leg.memberIndex] -= cost;
  }

  /** An entry order starts to wait or to work. */
  place(leg: Leg, order: EntryOrder): void {
    order.age = ++this.formed;
    leg.orders.push(order);
    this.waiting++;
    if (this.books.on)
      order.record = this.books.order(
        leg,
        order.side,
        "entry",
        order.units,
        "rule",
        order.type,
        order.type === "market" ? null : order.price,
      );
  }

  /** An entry order ends without a fill: its status in the list of orders, the event that names it, and why. */
  endOrder(leg: Leg, order: EntryOrder, status: OrderRecord["status"], event: "expired" | "replaced" | "dropped", why: string): void {
    take(leg.orders, order);
    this.waiting--;
    if (order.record !== null) this.books.end(order.record, status, why);
    this.books.event(leg, event, why);
  }

  /** Drops working orders of one side, or of both (0). */
  drop(leg: Leg, side: 1 | -1 | 0, why: string): void {
    for (let i = leg.orders.length - 1; i >= 0; i--) {
      const order = leg.orders[i];
      if (order !== undefined && (side === 0 || order.side === side)) this.endOrder(leg, order, "cancelled", "dropped", why);
    }
  }

  /**
   * Fills an entry order at a base price of its own side (before slippage), closing an opposite position at the same
   * price. A trade whose level lies at or beyond the price at which it could leave again is closed there at once.
   * Gives the trade's number.
   */
  enter(leg: Leg, order: EntryOrder, base: number, how: number): number {
    const { log, rules } = this;
    const { side, units, signalRow } = order;
    const slipped = order.type !== "limit";
    let price = slipped ? base + side * leg.slip : base;
    if (rules.roundToTick) price = nearestTick(price, leg.market.spec.tick, side);
    if (leg.side === -side) {
      this.endExits(leg, "cancelled", OPPOSITE);
      while (leg.open.length > 0) this.record(leg, leg.open[0], price, slipped, OPPOSITE, how === AT_CLOSE);
    }
    take(leg.orders, order);
    this.waiting--;
    if (order.record !== null) this.books.end(order.record, "filled", "");
    if (leg.orders.length > 0 && leg.onOpposite !== "ignore") this.dropOpposite(leg, side);

    const trade = log.open(leg.index, side, units, leg.row, price, how);
    setLevels(leg, log, trade, signalRow, order.levels, rules.roundToTick);
    this.charge(leg, trade, units, price, slipped);
    leg.open.push(trade);
    leg.side = side;
    this.openTrades++;
    if (this.books.on && this.overMargin(trade, price))
      this.books.event(leg, "overMargin", `the fill at ${price} takes the margin in use above the equity`);

    const out = base - side * 2 * leg.halfSpread;
    if (side * (out - log.stop[trade]) <= leg.epsilon) this.leave(leg, trade, out, true, log.stopReason[trade], how === AT_CLOSE);
    else if (side * (out - log.target[trade]) >= -leg.epsilon) this.leave(leg, trade, out, false, TARGET, how === AT_CLOSE);
    return trade;
  }

  /** A fill on one side ends the other side's working orders. */
  private dropOpposite(leg: Leg, side: 1 | -1): void {
    const other = leg.orderOf(-side as 1 | -1);
    if (other !== null && other.type !== "market") this.endOrder(leg, other, "cancelled", "dropped", "the other side's entry filled");
  }

  /** Commission, spread and slippage of one fill at a recorded price. */
  private charge(leg: Leg, trade: number, units: number, price: number, slipped: boolean): void {
    const commission = this.tally.fill(leg, units, price, slipped);
    this.log.costs[trade] += commission;
    this.pay(leg, commission);
  }

  /** Whether what is held now ties up more than the equity; the new trade at its own price, the others at their last closes. */
  private overMargin(trade: number, price: number): boolean {
    let equity = this.balance;
    let used = 0;
    for (const other of this.legs)
      for (const open of other.open) {
        if (open !== trade) equity += this.openProfit(other, open);
        used += other.margin(this.log.units[open], open === trade ? price : other.lastClose, this.rules.leverage);
      }
    return used > equity + 1e-9 * Math.abs(equity);
  }

  /** What an open trade has made at its market's last close, before exit costs. */
  openProfit(leg: Leg, trade: number): number {
    return leg.side * this.log.units[trade] * leg.pointValue * (leg.lastClose - this.log.entryPrice[trade]);
  }

  /** Balance and open trades at the last closes. */
  marked(): number {
    let equity = this.balance;
    if (this.openTrades > 0)
      for (const leg of this.legs) for (let i = 0; i < leg.open.length; i++) equity += this.openProfit(leg, leg.open[i]);
    return equity;
  }

  /** Closes every trade of a leg at the mid price given, moved by spread and slippage. `fate`: what becomes of waiting exit orders. */
  closeAll(leg: Leg, mid: number, reason: number, atClose: boolean, fate: "filled" | "cancelled"): void {
    this.endExits(leg, fate, reason);
    const price = mid - leg.side * leg.halfSpread;
    while (leg.open.length > 0) this.leave(leg, leg.open[0], price, true, reason, atClose);
  }

  /** Closes one trade at a price of its own exit's side; `slipped` moves the price against it. */
  leave(leg: Leg, trade: number, price: number, slipped: boolean, reason: number, atClose: boolean): void {
    const side = this.log.side[trade] as 1 | -1;
    let recorded = slipped ? price - side * leg.slip : price;
    if (this.rules.roundToTick) recorded = nearestTick(recorded, leg.market.spec.tick, -side as 1 | -1);
    this.record(leg, trade, recorded, slipped, reason, atClose);
  }

  private record(leg: Leg, trade: number, recorded: number, slipped: boolean, reason: number, atClose: boolean): void {
    const units = this.log.units[trade];
    const gross = this.log.close(trade, leg.row, recorded, reason, atClose, leg.pointValue);
    this.balance += gross;
    this.memberBalance[leg.memberIndex] += gross;
    this.charge(leg, trade, units, recorded, slipped);
    take(leg.open, trade);
    this.openTrades--;
    if (leg.open.length > 0) return;
    leg.side = 0;
    leg.due = 0;
    this.endExits(leg, "cancelled", reason);
  }

  private endExits(leg: Leg, fate: "filled" | "cancelled", reason: number): void {
    if (leg.exitOrders.length === 0) return;
    for (const order of leg.exitOrders) this.books.end(order, fate, fate === "filled" ? "" : `closed before by ${REASONS[reason]}`);
    leg.exitOrders = [];
  }

  /** An exit order for every open trade of a leg, due at its market's next open or at this close. */
  formExit(leg: Leg, reason: number, atClose: boolean): void {
    leg.due = reason;
    leg.dueAtClose = atClose;
    if (this.books.on)
      leg.exitOrders = leg.open.map((trade) =>
        this.books.order(leg, leg.side as 1 | -1, "exit", this.log.units[trade], REASONS[reason], "market", null),
      );
  }
}

/** Takes one thing out of a short list, in place. */
function take<T>(list: T[], one: T): void {
  for (let i = list.indexOf(one); i < list.length - 1; i++) list[i] = list[i + 1];
  list.pop();
}

/** How a working order fills inside a bar. */
export const insideBy = (order: EntryOrder): number => (order.type === "limit" ? BY_LIMIT : BY_STOP);
