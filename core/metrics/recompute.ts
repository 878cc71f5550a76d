import { DAY } from "#core/bars";
import { closedInOrder, type Metrics, type RunResult, type Trade } from "#core/documents";
import { closedDrawdown, drawdowns, lineFit } from "./equity-metrics";
import { METRIC_KEYS } from "./registry";
import { tradeMetrics, type ClosedTrades } from "./trade-metrics";

export interface Recomputed {
  metrics: { all: Metrics; long: Metrics; short: Metrics };
  /** figures that need the bars or the calendar, taken over as they were stored */
  kept: string[];
}

/** Figures that a result's trades and equity do not hold enough for: they rest on bars, costs by kind or the session calendar. */
const KEPT = [
  "timeInMarket",
  "volatility",
  "sharpe",
  "sortino",
  "skew",
  "kurtosis",
  "probabilisticSharpe",
  "deflatedSharpe",
  "commissions",
  "spreadCost",
  "slippageCost",
  "financing",
  "costShare",
  "turnover",
  "turnoverPerYear",
  "peakLongExposure",
  "peakShortExposure",
  "ambiguousBars",
  "benchmarkNetPercent",
  "benchmarkCagr",
  "benchmarkMaxDrawdownPercent",
  "beta",
  "alpha",
  "correlation",
];

/**
 * The figures of a stored result, computed anew from its trades and equity. The starting capital follows from the last
 * balance; the run's length from the stored growth rate where there is one, else from the equity's times.
 */
export function recomputeMetrics(result: RunResult): Recomputed {
  const { trades, equity } = result;
  const times = equity.time.map((text) => Date.parse(text));
  const last = equity.equity[equity.equity.length - 1];
  const settled = trades.reduce((sum, trade) => sum + (trade.open ? 0 : trade.gross) - trade.costs, 0);
  // sums of floats leave a rounding error behind that would count as a fall below the starting capital
  const capital = Number((equity.balance[equity.balance.length - 1] - settled).toPrecision(12));
  const days = storedDays(result) ?? (times[times.length - 1] - times[0]) / DAY + 1;
  const part = (pick: (trade: Trade) => boolean): Metrics => {
    const open = trades.filter((trade) => trade.open && pick(trade));
    return tradeMetrics(
      columnsOfTrades(trades.filter((trade) => !trade.open && pick(trade))),
      { count: open.length, net: open.reduce((sum, trade) => sum + trade.net, 0) },
      capital,
      days,
    );
  };
  const curve = Float64Array.from(equity.equity);
  const falls = drawdowns(curve, Float64Array.from(times), capital);
  const netProfit = last - capital;
  const cagr = last > 0 ? 100 * ((last / capital) ** (365.25 / days) - 1) : null;
  const stored = result.metrics.all;
  const all: Metrics = {
    ...Object.fromEntries(METRIC_KEYS.map((key) => [key, stored[key] ?? null])),
    ...part(() => true),
    netProfit,
    netPercent: (100 * netProfit) / capital,
    maxDrawdown: falls.maxDrawdown,
    maxDrawdownPercent: falls.maxDrawdownPercent,
    longestDrawdownDays: falls.longestDrawdownDays,
    timeUnderWater: falls.timeUnderWater,
    ulcer: falls.ulcer,
    maxDrawdownClosed: closedDrawdown(columnsOfTrades(trades.filter((trade) => !trade.open)).net, capital),
    profitToDrawdown: falls.maxDrawdown > 0 ? netProfit / falls.maxDrawdown : null,
    cagr,
    mar: cagr === null || falls.maxDrawdownPercent === 0 ? null : cagr / falls.maxDrawdownPercent,
    equityR2: lineFit(curve, falls.average),
  };
  const side = (name: Trade["side"]): Metrics => {
    const figures = part((trade) => trade.side === name);
    return Object.fromEntries(METRIC_KEYS.map((key) => [key, figures[key] ?? null]));
  };
  return { metrics: { all, long: side("long"), short: side("short") }, kept: KEPT };
}

/** The run's length in days, out of the stored number of trades per year; null without closed trades. */
function storedDays(result: RunResult): number | null {
  const { trades, tradesPerYear } = result.metrics.all;
  return trades && tradesPerYear ? (trades / tradesPerYear) * 365.25 : null;
}

/** Closed trades of a result as columns, in the order of their exits; what is open is left out. */
export function columnsOfTrades(trades: readonly Trade[]): ClosedTrades {
  const ordered = closedInOrder(trades);
  const out: ClosedTrades = { net: [], bars: [], r: [] };
  for (const trade of ordered) {
    out.net.push(trade.net);
    out.bars.push(trade.bars);
    out.r.push(trade.r ?? NaN);
  }
  return out;
}
