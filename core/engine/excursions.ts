import type { Simulation } from "./simulation";
import { AT_CLOSE } from "./trade-log";

/**
 * Worst and best open profit of a trade in account money, at mid lows and highs from its entry to its exit bar, from the
 * recorded entry price and before commission; the first is never above 0, the second never below. Found when it is asked
 * for: trials have no use for it. See the excursions in the documentation for what counts of both end bars.
 */
export function excursion({ log, legs }: Simulation, trade: number): { mae: number; mfe: number } {
  const leg = legs[log.leg[trade]];
  const { high, low } = leg.market.bars;
  const closed = log.reason[trade] !== 0;
  const first = log.entryRow[trade] + (log.how[trade] === AT_CLOSE ? 1 : 0);
  const last = closed ? log.exitRow[trade] - (log.exitAtClose[trade] === 1 ? 0 : 1) : leg.lastRow;
  let top = closed ? log.exitPrice[trade] : -Infinity;
  let bottom = closed ? log.exitPrice[trade] : Infinity;
  for (let row = first; row <= last; row++) {
    if (high[row] > top) top = high[row];
    if (low[row] < bottom) bottom = low[row];
  }
  const money = log.units[trade] * leg.pointValue;
  const entry = log.entryPrice[trade];
  const [worst, best] = log.side[trade] === 1 ? [bottom - entry, top - entry] : [entry - top, entry - bottom];
  return { mae: Math.min(0, worst * money), mfe: Math.max(0, best * money) };
}
