import type { Metrics } from "#core/documents";
import type { Simulation } from "#core/engine";
import { benchmarkMetrics } from "./benchmark";
import { cagrOf, closedDrawdown, drawdowns, lineFit, returnMetrics, runDays } from "./equity-metrics";
import { METRIC_KEYS } from "./registry";
import { periodEnds, periodReturns, periodsPerYear } from "./returns";
import { closedByExit, closedTrades, finiteOrNull, tradeMetrics } from "./trade-metrics";

/** All figures of the whole run. */
export function wholeMetrics(simulation: Simulation): Metrics {
  const { run, equity } = simulation;
  const { capital } = run.account;
  const days = runDays(simulation);
  const closed = closedTrades(simulation, closedByExit(simulation));
  const ofTrades = tradeMetrics(
    closed,
    openTrades(simulation, () => true),
    capital,
    days,
  );
  const last = equity[equity.length - 1];
  const netProfit = last - capital;
  const falls = drawdowns(equity, run.clock.times, capital);
  const cagr = cagrOf(last, capital, days);
  const ends = periodEnds(run);
  const returns = periodReturns(equity, ends, capital);
  const perYear = periodsPerYear(run);
  const { commissions, spreadCost, slippageCost, financing } = simulation;
  const costs = commissions + spreadCost + slippageCost + financing;
  const { average } = falls;
  return {
    ...ofTrades,
    netProfit,
    netPercent: (100 * netProfit) / capital,
    timeInMarket: simulation.barsInMarket / equity.length,
    maxDrawdown: falls.maxDrawdown,
    maxDrawdownPercent: falls.maxDrawdownPercent,
    maxDrawdownClosed: closedDrawdown(closed.net, capital),
    longestDrawdownDays: falls.longestDrawdownDays,
    timeUnderWater: falls.timeUnderWater,
    ulcer: falls.ulcer,
    profitToDrawdown: falls.maxDrawdown > 0 ? netProfit / falls.maxDrawdown : null,
    cagr,
    mar: cagr === null || falls.maxDrawdownPercent === 0 ? null : cagr / falls.maxDrawdownPercent,
    ...returnMetrics(returns, perYear),
    deflatedSharpe: null,
    equityR2: lineFit(equity, average),
    commissions,
    spreadCost,
    slippageCost,
    financing,
    costShare: netProfit + costs > 0 ? costs / (netProfit + costs) : null,
    turnover: simulation.turnover,
    turnoverPerYear: average > 0 ? finiteOrNull(simulation.turnover / average / (days / 365.25)) : null,
    peakLongExposure: simulation.peakLong,
    peakShortExposure: simulation.peakShort,
    ambiguousBars: simulation.ambiguousBars,
    ...benchmarkMetrics(simulation, returns, ends, days, perYear),
  };
}

function openTrades(simulation: Simulation, pick: (row: number) => boolean): { count: number; net: number } {
  const { log } = simulation;
  let count = 0;
  let net = 0;
  for (let row = 0; row < log.count; row++)
    if (log.reason[row] === 0 && pick(row)) {
      count++;
      net += log.net(row);
    }
  return { count, net };
}

/** The figures of some of the trades; what rests on the account's equity is null. */
export function partMetrics(simulation: Simulation, pick: (row: number) => boolean): Metrics {
  const closed = closedTrades(simulation, closedByExit(simulation, pick));
  const figures = tradeMetrics(closed, openTrades(simulation, pick), simulation.run.account.capital, runDays(simulation));
  return Object.fromEntries(METRIC_KEYS.map((key) => [key, figures[key] ?? null]));
}

/** The figures for all, long and short trades. */
export function computeMetrics(simulation: Simulation): { all: Metrics; long: Metrics; short: Metrics } {
  const { side } = simulation.log;
  return {
    all: wholeMetrics(simulation),
    long: partMetrics(simulation, (row) => side[row] === 1),
    short: partMetrics(simulation, (row) => side[row] === -1),
  };
}
