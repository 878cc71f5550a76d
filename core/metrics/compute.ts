import type { Metrics } from "#core/documents";
import type { Simulation } from "#core/engine";
import { benchmarkMetrics } from "./benchmark";
import { cagrOf, closedDrawdown, drawdowns, lineFit, momentsOf, returnMetrics, runDays } from "./equity-metrics";
import { METRIC_INDEX, METRIC_KEYS } from "./registry";
import { periodEnds, periodReturns, periodsPerYear } from "./returns";
import { closedByExit, closedTrades, finiteOrNull, tradeMetrics } from "./trade-metrics";

/** Holds the returns of the run at hand; trials follow each other with series of one length. */
let memory = new Float64Array(0);

/** All figures of the whole run, in the order of METRIC_KEYS; NaN where there is none. Trials need no more. */
export function wholeFigures(simulation: Simulation): Float64Array {
  const out = new Float64Array(METRIC_KEYS.length).fill(NaN);
  for (const part of parts(simulation))
    for (const key in part) {
      const value = part[key];
      if (value !== null) out[METRIC_INDEX[key]] = value;
    }
  return out;
}

/** All figures of the whole run. */
export function wholeMetrics(simulation: Simulation): Metrics {
  return Object.assign({}, ...parts(simulation));
}

/** The figures by what they rest on; a later part's stand for an earlier one's. */
function parts(simulation: Simulation): Metrics[] {
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
  if (memory.length !== ends.length) memory = new Float64Array(ends.length);
  const moments = momentsOf(periodReturns(equity, ends, capital, memory));
  const perYear = periodsPerYear(run);
  const { commissions, spreadCost, slippageCost, financing } = simulation;
  const costs = commissions + spreadCost + slippageCost + financing;
  const { average } = falls;
  return [
    ofTrades,
    {
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
    },
    returnMetrics(moments, perYear),
    {
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
    },
    benchmarkMetrics(simulation, moments, ends, days, perYear),
  ];
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
