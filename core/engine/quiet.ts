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
    equity.fill(balance, s.t, t);
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
  const { balance, log } = account;
  const { high, low, close } = leg.market.bars;
  const { side, pointValue, plan } = leg;
  const trade = leg.open[0];
  const entry = log.entryPrice[trade];
  const units = log.units[trade];
  const { haltBelow, closeAtEnd } = run.account;
  const first = run.clock.firstRow;
  const from = first + s.t;
  const until = Math.min(
    first + equity.length - (closeAtEnd ? 1 : 0),
    log.entryRow[trade] + plan.maxBarsHeld,
    leg.nextSignal(from, side as 1 | -1),
    plan.marks === null ? Infinity : plan.marks.next[from],
  );
  const [above, below] = quietRange(leg, log.stop[trade], log.target[trade]);
  const notional = units * pointValue;
  const money = side * units * pointValue;
  // shares of the equity are divided out only where they may be the largest so far
  let largest = side === 1 ? s.exposure.peakLong : s.exposure.peakShort;
  let guard = largest * (1 - 1e-12);
  let row = from;
  const rules = leg.liveWatched[side === 1 ? 0 : 1];
  const position = rules.length === 0 ? null : plan.live!.formulas.position;
  const entered = log.entryRow[trade];
  const risk = log.stopDistance[trade];
  if (position !== null) {
    position.inLong = side === 1 ? 1 : 0;
    position.inShort = side === 1 ? 0 : 1;
    position.entryPrice = entry;
  }
  hold: for (; row < until; row++) {
    if (high[row] >= above || low[row] <= below) break;
    const price = close[row];
    const value = balance + money * (price - entry);
    if (value <= haltBelow) break;
    if (position !== null) {
      position.barsHeld = row - entered;
      position.openProfit = side * (price - entry);
      const inR = position.openProfit / risk;
      position.openR = inR - inR === 0 ? inR : NaN;
      for (let i = 0; i < rules.length; i++) if (rules[i](row) === 1) break hold;
    }
    equity[row - first] = value;
    const exposed = notional * Math.abs(price);
    if (exposed > guard * value) {
      largest = Math.max(largest, exposed / value);
      guard = largest * (1 - 1e-12);
    }
  }
  if (row === from) return;
  s.barsInMarket += row - from;
  s.exposure.peak(side, largest);
  leg.lastRow = row - 1;
  leg.lastClose = close[row - 1];
  s.t = row - first;
}

/**
 * Prices that a bar must stay within so that certainly neither level is reached: a little narrower than the levels, since
 * what is near them is for the general step to decide.
 */
function quietRange(leg: Leg, stop: number, target: number): [above: number, below: number] {
  const shift = leg.side * leg.halfSpread;
  const [upper, lower] = leg.side === 1 ? [target, stop] : [stop, target];
  const slack = (level: number) => 2 * leg.epsilon + 1e-12 * (Math.abs(level) + Math.abs(shift));
  return [Number.isNaN(upper) ? Infinity : upper + shift - slack(upper), Number.isNaN(lower) ? -Infinity : lower + shift + slack(lower)];
}
