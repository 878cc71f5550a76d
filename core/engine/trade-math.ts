import type { Leg } from "./leg";
import type { DistancePlan } from "./prepare";
import type { TradeLog } from "./trade-log";

/** Distance of a level from a recorded entry price; NaN where there is no such level. */
export function distanceAt(plan: DistancePlan | null, price: number, signalRow: number, stopDistance: number): number {
  if (plan === null) return NaN;
  if (plan.unit === "percent") return (Math.abs(price) * plan.value) / 100;
  if (plan.unit === "r") return plan.value * stopDistance;
  return plan.scale === null ? plan.value : plan.value * plan.scale[signalRow];
}

/** Worst and best open profit of a trade at mid lows and highs, up to `lastRow`; see the excursions in the documentation. */
export function excursion(leg: Leg, log: TradeLog, trade: number, lastRow: number): void {
  const { high, low } = leg.market.bars;
  const side = log.side[trade];
  const closed = log.reason[trade] !== 0;
  const first = log.entryRow[trade] + log.entryAtClose[trade];
  const end = closed && log.exitAtClose[trade] === 0 ? lastRow : lastRow + 1;
  let top = -Infinity;
  let bottom = Infinity;
  for (let i = first; i < end; i++) {
    if (high[i] > top) top = high[i];
    if (low[i] < bottom) bottom = low[i];
  }
  if (closed) {
    if (log.exitPrice[trade] > top) top = log.exitPrice[trade];
    if (log.exitPrice[trade] < bottom) bottom = log.exitPrice[trade];
  }
  const money = log.units[trade] * leg.pointValue;
  const entry = log.entryPrice[trade];
  const [worst, best] = side === 1 ? [bottom - entry, top - entry] : [entry - top, entry - bottom];
  log.mae[trade] = Math.min(0, worst * money);
  log.mfe[trade] = Math.max(0, best * money);
}
