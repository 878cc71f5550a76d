import { insideBy, type Account } from "./account";
import { barred, tradeUndecided, type Stretch } from "./inside";
import type { Leg } from "./leg";
import type { EntryOrder } from "./orders";
import { AT_OPEN, TARGET } from "./trade-log";

/** What the path meets next: a mid price, and the exit or the order that stands there. */
interface Meeting {
  at: number;
  trade: number;
  order: EntryOrder | null;
  stop: boolean;
}

const NOTHING = -1;

/**
 * Walks a bar as open → the nearer of high and low (low first if equal) → the other → close, and takes what that path meets
 * in the order in which it meets it. Tells whether a trade entered on the way had both its levels in the bar's range.
 */
export function walkPath(account: Account, leg: Leg, bar: Stretch): boolean {
  const { open, high, low, close } = bar;
  const highFirst = high - open < open - low - leg.epsilon;
  const corners = highFirst ? [high, low, close] : [low, high, close];
  const left: number[] = [];
  let undecided = false;
  let at = open;
  for (const corner of corners) {
    // where a meeting lies at the corner itself, the way there still tells which things it can meet
    const direction = corner > at ? 1 : -1;
    for (;;) {
      const meeting = next(account, leg, bar, at, corner, direction, left);
      if (meeting === null) break;
      at = meeting.at;
      if (meeting.order !== null) {
        const trade = account.enter(leg, meeting.order, meeting.order.price, insideBy(meeting.order));
        if (account.log.reason[trade] === 0 && tradeUndecided(account, leg, trade, bar)) undecided = true;
      } else {
        const { log } = account;
        const level = meeting.stop ? log.stop[meeting.trade] : log.target[meeting.trade];
        account.leave(leg, meeting.trade, level, meeting.stop, meeting.stop ? log.stopReason[meeting.trade] : TARGET, false);
        left.push(level);
      }
    }
    at = corner;
    if (leg.plan.moving) reach(account, leg, corner);
    if (leg.side === 0 && leg.orders.length === 0) break;
  }
  return undecided;
}

/** Corners that the path comes to after the fill count for a trade's best price on the bar of its entry. */
function reach({ log }: Account, leg: Leg, corner: number): void {
  for (const trade of leg.open)
    if (log.entryRow[trade] === leg.row && log.how[trade] !== AT_OPEN) {
      const best = log.pathBest[trade];
      if (!(leg.side * (corner - best) <= 0)) log.pathBest[trade] = corner;
    }
}

/** The first thing that the path meets on its way from one mid price to another; at one price stops, targets, then orders by age. */
function next(
  account: Account,
  leg: Leg,
  bar: Stretch,
  from: number,
  to: number,
  direction: 1 | -1,
  left: readonly number[],
): Meeting | null {
  const { log } = account;
  const { epsilon, side } = leg;
  let found: Meeting | null = null;
  let rank = 0;
  const offer = (at: number, trade: number, order: EntryOrder | null, stop: boolean, beyond: boolean): void => {
    const rest = direction * (to - at);
    if (beyond ? rest <= epsilon : rest < -epsilon) return;
    if (direction * (at - from) < -epsilon) return;
    const own = order !== null ? 2 + order.age : stop ? 0 : 1;
    if (found !== null) {
      const ahead = direction * (found.at - at);
      if (ahead < -epsilon || (ahead <= epsilon && own >= rank)) return;
    }
    found = { at, trade, order, stop };
    rank = own;
  };
  for (const trade of leg.open) {
    const shift = side * leg.halfSpread;
    if (direction === -side) {
      if (log.stop[trade] === log.stop[trade]) offer(log.stop[trade] + shift, trade, null, true, false);
    } else if (log.target[trade] === log.target[trade]) offer(log.target[trade] + shift, trade, null, false, false);
  }
  for (const order of leg.orders) {
    if (order.type === "market" || order.barredIn === bar.number) continue;
    const up = (order.type === "stop") === (order.side === 1);
    if (up !== (direction === 1)) continue;
    if (leg.onOpposite === "ignore" && (side === -order.side || barred(leg, order, bar.open, left))) continue;
    offer(order.price - order.side * leg.halfSpread, NOTHING, order, false, order.through);
  }
  return found;
}
