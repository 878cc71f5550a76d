import type { Leg } from "./leg";
import { rowAt } from "./prepare";
import type { Simulator } from "./simulate";

/** With nothing open and nothing waiting, goes on to the next close that may form an entry; the equity stays level. False at the end. */
export function skipToSignal(s: Simulator): boolean {
  const { legs, equity, memberProfit, concentration, account, run } = s;
  const { balance } = account;
  const length = equity.length;
  let t = s.t;
  if (s.halted) t = length;
  // what was lost at the close before halts the account at this one, signal or not
  else if (balance <= run.account.haltBelow) return t < length;
  else if (legs.length === 1 && run.clock.rows[legs[0].marketIndex] === null) {
    const first = run.clock.firstRow;
    t = Math.min(length, legs[0].nextEntry(first + t) - first);
  } else {
    scan: for (; t < length; t++)
      for (const leg of legs) {
        const row = rowAt(run, leg, t);
        if (row >= 0 && leg.nextEntry(row) === row) break scan;
      }
  }
  if (t > s.t) {
    if (s.keepsEquity) equity.fill(balance, s.t, t);
    if (memberProfit !== null) memberProfit.forEach((series, m) => series.fill(account.memberBalance[m], s.t, t));
    if (concentration !== null) concentration.fill(balance > 0 ? 0 : NaN, s.t, t);
    s.t = t;
  }
  return t < length;
}

/**
 * With one trade open and nothing waiting, goes on to the next bar on which anything can happen: a level in range, a signal
 * that matters (from rules that rest on the position, too), the clock, the last bar held, a halt, the end. Passed bars get their equity; the general step does the rest.
 */
export function hold(s: Simulator, leg: Leg): void {
  if (leg.due !== 0 || s.halted) return;
  const { equity, account, run } = s;
  const { log } = account;
  const { plan } = leg;
  const trade = leg.open[0];
  const first = run.clock.firstRow;
  const from = first + s.t;
  const until = Math.min(
    first + equity.length - (run.account.closeAtEnd ? 1 : 0),
    log.entryRow[trade] + plan.maxBarsHeld,
    leg.nextSignal(from, leg.side as 1 | -1),
    plan.marks === null ? Infinity : plan.marks.next[from],
  );
  let row = quietUntil(s, leg, trade, from, until);
  if (row > from && leg.liveWatched[leg.side === 1 ? 0 : 1].length > 0) row = silentUntil(s, leg, trade, from, row);
  if (row === from) return;
  if (s.keepsEquity) pass(s, leg, trade, from, row);
  s.barsInMarket += row - from;
  leg.lastRow = row - 1;
  leg.lastClose = leg.market.bars.close[row - 1];
  s.t = row - first;
}

/**
 * The first bar whose range may reach a level, or at whose close the account may be halted; `until` without one. The
 * prices that a bar must stay within are a little narrower than the levels: what is near them is for the general step to decide.
 */
function quietUntil(s: Simulator, leg: Leg, trade: number, from: number, until: number): number {
  const { high, low } = leg.market.bars;
  const { log, balance } = s.account;
  const { side } = leg;
  const shift = side * leg.halfSpread;
  const slack = (level: number) => 2 * leg.epsilon + 1e-12 * (Math.abs(level) + Math.abs(shift));
  const [stop, target] = [log.stop[trade], log.target[trade]];
  const [upper, lower] = side === 1 ? [target, stop] : [stop, target];
  let above = Number.isNaN(upper) ? Infinity : upper + shift - slack(upper);
  let below = Number.isNaN(lower) ? -Infinity : lower + shift + slack(lower);
  const { haltBelow } = s.run.account;
  const entry = log.entryPrice[trade];
  const money = log.units[trade] * leg.pointValue;
  // no bar within its range can close there
  const halted = entry + (side * (haltBelow - balance)) / money;
  const near = 2 * leg.epsilon + (1e-9 * (Math.abs(balance) + Math.abs(haltBelow))) / money + 1e-9 * Math.abs(entry);
  if (side === 1) below = Math.max(below, halted + near);
  else above = Math.min(above, halted - near);
  let row = from;
  while (row < until && high[row] < above && low[row] > below) row++;
  return row;
}

/** The first bar at whose close a rule that rests on the position says yes; `until` without one. */
function silentUntil(s: Simulator, leg: Leg, trade: number, from: number, until: number): number {
  const { log } = s.account;
  const { close } = leg.market.bars;
  const { side } = leg;
  const rules = leg.liveWatched[side === 1 ? 0 : 1];
  const { position } = leg.plan.live!.formulas;
  const entered = log.entryRow[trade];
  const entry = log.entryPrice[trade];
  const risk = log.stopDistance[trade];
  position.inLong = side === 1 ? 1 : 0;
  position.inShort = side === 1 ? 0 : 1;
  position.entryPrice = entry;
  for (let row = from; row < until; row++) {
    position.barsHeld = row - entered;
    position.openProfit = side * (close[row] - entry);
    const inR = position.openProfit / risk;
    position.openR = inR - inR === 0 ? inR : NaN;
    for (let i = 0; i < rules.length; i++) if (rules[i](row) === 1) return row;
  }
  return until;
}

/** Gives passed bars their equity, and notes how large the position was at their closes. */
function pass(s: Simulator, leg: Leg, trade: number, from: number, until: number): void {
  const { equity, account, run } = s;
  const { balance, log } = account;
  const { close } = leg.market.bars;
  const first = run.clock.firstRow;
  const entry = log.entryPrice[trade];
  const money = leg.side * log.units[trade] * leg.pointValue;
  let top = close[from];
  let bottom = top;
  for (let row = from; row < until; row++) {
    const price = close[row];
    equity[row - first] = balance + money * (price - entry);
    if (price > top) top = price;
    else if (price < bottom) bottom = price;
  }
  // price ÷ equity rises or falls throughout with the price, so the largest share is at one of the ends
  const notional = Math.abs(money);
  const share = (price: number) => (notional * Math.abs(price)) / (balance + money * (price - entry));
  s.exposure.peak(leg.side, share(top));
  s.exposure.peak(leg.side, share(bottom));
}
