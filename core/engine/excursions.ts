import type { Leg } from "./leg";
import type { TradeLog } from "./trade-log";
/** Takes the bars up to `end` (excluded) into a trade's highest and lowest price. */
export function lookBack(leg: Leg, log: TradeLog, trade: number, end: number): void {
  const { high, low } = leg.market.bars;
  let top = log.top[trade];
  let bottom = log.bottom[trade];
  for (let i = log.seen[trade]; i < end; i++) {
    if (high[i] > top) top = high[i];
    if (low[i] < bottom) bottom = low[i];
  }
  log.top[trade] = top;
  log.bottom[trade] = bottom;
  log.seen[trade] = Math.max(log.seen[trade], end);
}

/** Worst and best open profit of a trade at mid lows and highs, up to `lastRow`; see the excursions in the documentation. */
export function excursion(leg: Leg, log: TradeLog, trade: number, lastRow: number): void {
  const closed = log.reason[trade] !== 0;
  lookBack(leg, log, trade, closed && log.exitAtClose[trade] === 0 ? lastRow : lastRow + 1);
  let top = log.top[trade];
  let bottom = log.bottom[trade];
  if (closed) {
    if (log.exitPrice[trade] > top) top = log.exitPrice[trade];
    if (log.exitPrice[trade] < bottom) bottom = log.exitPrice[trade];
  }
  const money = log.units[trade] * leg.pointValue;
  const entry = log.entryPrice[trade];
  const long = log.side[trade] === 1;
  log.mae[trade] = Math.min(0, (long ? bottom - entry : entry - top) * money);
  log.mfe[trade] = Math.max(0, (long ? top - entry : entry - bottom) * money);
}
