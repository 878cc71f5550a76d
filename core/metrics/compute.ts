import type { Metrics } from "#core/documents";
import type { Simulation } from "#core/engine";
import { benchmarkMetrics } from "./benchmark";
import { cagrOf, closedDrawdown, drawdowns, lineFit, momentsOf, returnMetrics, runDays } from "./equity-metrics";
import { METRIC_INDEX, METRIC_KEYS } from "./registry";
import { periodEnds, periodReturns, periodsPerYear } from "./returns";
import { closedByExit, closedTrades, finiteOrNull, tradeMetrics, type ClosedTrades } from "./trade-metrics";

/** Holds the returns of the run at hand; trials follow each other with series of one length. */
let memory = new Float64Array(0);

/** Which figures of trials are wanted: all, or those that rest on the trades alone, which are much quicker to have. */
export type FigureSet = "all" | "trades";

/**
 * Figures of the whole run, in the order of METRIC_KEYS; NaN where there is none. Trials need no more. `withoutBest`: so many
 * trades with the largest net are left out, and with them every figure that rests on the equity at every close.
 */
export function wholeFigures(simulation: Simulation, figures: FigureSet = "all", withoutBest = 0): Float64Array {
  const out = new Float64Array(METRIC_KEYS.length).fill(NaN);
  const closed = closedTrades(simulation, closedByExit(simulation));
  if (withoutBest > 0) take(out, tradeParts(simulation, ...leaveBestOut(closed, withoutBest)));
  else {
    take(out, tradeParts(simulation, closed));
    if (figures === "all") for (const part of equityParts(simulation)) take(out, part);
  }
  return out;
}

/** Closed trades without those with the largest net (ties: the earlier ones go), and the net that went with them. */
function leaveBestOut({ net, bars, r }: ClosedTrades, count: number): [ClosedTrades, number] {
  const best = new Set(
    net
      .map((_, i) => i)
      .sort((a, b) => net[b] - net[a] || a - b)
      .slice(0, count),
  );
  const kept = <T>(column: readonly T[]): T[] => column.filter((_, i) => !best.has(i));
  let gone = 0;
  for (const i of best) gone += net[i];
  return [{ net: kept(net), bars: kept(bars), r: kept(r) }, gone];
}

function take(out: Float64Array, part: Metrics): void {
  for (const key in part) {
    const value = part[key];
    if (value !== null) out[METRIC_INDEX[key]] = value;
  }
}

/** All figures of the whole run. */
export function wholeMetrics(simulation: Simulation): Metrics {
  const closed = closedTrades(simulation, closedByExit(simulation));
  return Object.assign({}, tradeParts(simulation, closed), ...equityParts(simulation));
}

/** The figures that need no equity but its last value. `leftOut`: net of trades that `closed` lacks. */
function tradeParts(simulation: Simulation, closed: ClosedTrades, leftOut = 0): Metrics {
  const { run, equity } = simulation;
  const { capital } = run.account;
  const figures = tradeMetrics(
    closed,
    openTrades(simulation, () => true),
    capital,
    runDays(simulation),
  );
  const netProfit = equity[equity.length - 1] - capital - leftOut;
  const { commissions, spreadCost, slippageCost, financing } = simulation;
  const costs = commissions + spreadCost + slippageCost + financing;
  figures.netProfit = netProfit;
  figures.netPercent = (100 * netProfit) / capital;
  figures.timeInMarket = simulation.barsInMarket / equity.length;
  figures.maxDrawdownClosed = closedDrawdown(closed.net, capital);
  figures.commissions = commissions;
  figures.spreadCost = spreadCost;
  figures.slippageCost = slippageCost;
  figures.financing = financing;
  figures.costShare = netProfit + costs > 0 ? costs / (netProfit + costs) : null;
  figures.turnover = simulation.turnover;
  figures.ambiguousBars = simulation.ambiguousBars;
  figures.deflatedSharpe = null;
  return figures;
}

/** The figures that rest on the equity at every close, by what they are made of. */
function equityParts(simulation: Simulation): Metrics[] {
  const { run, equity } = simulation;
  const { capital } = run.account;
  const days = runDays(simulation);
  const last = equity[equity.length - 1];
  const falls = drawdowns(equity, run.clock.times, capital);
  const cagr = cagrOf(last, capital, days);
  const ends = periodEnds(run);
  if (memory.length !== ends.length) memory = new Float64Array(ends.length);
  const moments = momentsOf(periodReturns(equity, ends, capital, memory));
  const perYear = periodsPerYear(run);
  const { average } = falls;
  return [
    {
      maxDrawdown: falls.maxDrawdown,
      maxDrawdownPercent: falls.maxDrawdownPercent,
      longestDrawdownDays: falls.longestDrawdownDays,
      timeUnderWater: falls.timeUnderWater,
      ulcer: falls.ulcer,
      profitToDrawdown: falls.maxDrawdown > 0 ? (last - capital) / falls.maxDrawdown : null,
      cagr,
      mar: cagr === null || falls.maxDrawdownPercent === 0 ? null : cagr / falls.maxDrawdownPercent,
    },
    returnMetrics(moments, perYear),
    {
      equityR2: lineFit(equity, average),
      turnoverPerYear: average > 0 ? finiteOrNull(simulation.turnover / average / (days / 365.25)) : null,
      peakLongExposure: simulation.peakLong,
      peakShortExposure: simulation.peakShort,
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
