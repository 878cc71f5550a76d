import { DAY } from "#core/bars";
import { exitMoment, type Metrics, type Trade } from "#core/documents";
import { cagrOf, drawdowns } from "#core/metrics";
import { figuresOf } from "./groups";

/** Figures of a stretch of a run and of what lies outside it. */
export interface StretchFigures {
  inside: Metrics;
  outside: Metrics;
}

/**
 * Figures of the stretch from one moment to another (both included) and of the rest. The stretch begins with the equity of
 * the point before it; trades belong where they were closed. Outside it the growth before and after is put together; a
 * drawdown across the gap has no sense there and is null. Null where no point lies in the stretch.
 */
export function stretchFigures(
  times: ArrayLike<number>,
  equity: ArrayLike<number>,
  trades: readonly Trade[],
  from: number,
  to: number,
  capital: number,
): StretchFigures | null {
  let first = 0;
  while (first < times.length && times[first] < from) first++;
  let last = times.length - 1;
  while (last >= 0 && times[last] > to) last--;
  if (first > last) return null;
  const start = first === 0 ? capital : equity[first - 1];
  const end = equity[last];
  const own = Float64Array.from({ length: last - first + 1 }, (_, i) => equity[first + i]);
  const ownTimes = Float64Array.from({ length: own.length }, (_, i) => times[first + i]);
  const within = (trade: Trade) => exitMoment(trade) >= times[first] && exitMoment(trade) <= times[last];
  const days = (times[last] - times[first]) / DAY + 1;
  const all = (times[times.length - 1] - times[0]) / DAY + 1;
  const falls = drawdowns(own, ownTimes, start);
  const closed = trades.filter((trade) => !trade.open);
  const growth = start > 0 && end > 0 ? (start / capital) * (equity[equity.length - 1] / end) : NaN;
  const rest = all - days;
  const part = (keep: (trade: Trade) => boolean, length: number): Metrics => {
    const { trades: count, winRate, averageTrade, profitFactor } = figuresOf(closed.filter(keep), capital, length);
    return { trades: count, winRate, averageTrade, profitFactor };
  };
  return {
    inside: {
      ...part(within, days),
      netPercent: start > 0 ? 100 * (end / start - 1) : null,
      cagr: start > 0 ? cagrOf(end, start, days) : null,
      maxDrawdownPercent: falls.maxDrawdownPercent,
    },
    outside: {
      ...part((trade) => !within(trade), Math.max(rest, 1)),
      netPercent: rest < 1 || Number.isNaN(growth) ? null : 100 * (growth - 1),
      cagr: rest < 1 || Number.isNaN(growth) ? null : cagrOf(growth, 1, rest),
      maxDrawdownPercent: null,
    },
  };
}
