import type { Metrics } from "#core/documents";
import type { Simulation } from "#core/engine";
import { mean, median, sampleDeviation } from "./statistics";

/** Rows of the log in the order of their exits (time, then id); closed trades only. */
export function closedByExit(simulation: Simulation, pick: (row: number) => boolean = () => true): number[] {
  const { log, legs } = simulation;
  const rows: number[] = [];
  for (let row = 0; row < log.count; row++) if (log.reason[row] !== 0 && pick(row)) rows.push(row);
  const time = (row: number) => legs[log.leg[row]].market.bars.time[log.exitRow[row]];
  for (let i = 1; i < rows.length; i++)
    if (time(rows[i]) < time(rows[i - 1])) {
      rows.sort((a, b) => time(a) - time(b) || a - b);
      break;
    }
  return rows;
}

export const finiteOrNull = (x: number): number | null => (Number.isFinite(x) ? x : null);

/** Closed trades in the order of their exits, as columns: net in money, bars held, and net in R (NaN without a stop). */
export interface ClosedTrades {
  net: number[];
  bars: number[];
  r: number[];
}

/** The closed trades of a simulation as columns; `rows` in exit order. */
export function closedTrades(simulation: Simulation, rows: readonly number[]): ClosedTrades {
  const { log } = simulation;
  const out: ClosedTrades = { net: [], bars: [], r: [] };
  for (const row of rows) {
    const net = log.net(row);
    const risk = riskOf(simulation, row);
    out.net.push(net);
    out.bars.push(log.exitRow[row] - log.entryRow[row]);
    out.r.push(risk > 0 ? net / risk : NaN);
  }
  return out;
}

/** The figures that rest on trades alone. `open`: number and value of the trades still open; `days`: the run's calendar length. */
export function tradeMetrics(closed: ClosedTrades, open: { count: number; net: number }, capital: number, days: number): Metrics {
  const { net } = closed;
  const count = net.length;
  let grossProfit = 0;
  let grossLoss = 0;
  let winners = 0;
  let losers = 0;
  let largestWin = -Infinity;
  let largestLoss = Infinity;
  let bars = 0;
  let barsWin = 0;
  let barsLoss = 0;
  let winRun = 0;
  let lossRun = 0;
  let maxWinRun = 0;
  let maxLossRun = 0;
  let r = 0;
  let withStop = 0;
  for (let i = 0; i < count; i++) {
    const value = net[i];
    const held = closed.bars[i];
    bars += held;
    if (value > 0) {
      winners++;
      grossProfit += value;
      barsWin += held;
      if (value > largestWin) largestWin = value;
      winRun++;
      lossRun = 0;
      if (winRun > maxWinRun) maxWinRun = winRun;
    } else if (value < 0) {
      losers++;
      grossLoss += value;
      barsLoss += held;
      if (value < largestLoss) largestLoss = value;
      lossRun++;
      winRun = 0;
      if (lossRun > maxLossRun) maxLossRun = lossRun;
    } else winRun = lossRun = 0;
    if (!Number.isNaN(closed.r[i])) {
      withStop++;
      r += closed.r[i];
    }
  }
  const netProfit = grossProfit + grossLoss + open.net;
  const averageWin = grossProfit / winners;
  const averageLoss = grossLoss / losers;
  const deviation = sampleDeviation(net);
  return {
    netProfit,
    netPercent: (100 * netProfit) / capital,
    grossProfit,
    grossLoss,
    profitFactor: losers === 0 ? null : grossProfit / -grossLoss,
    trades: count,
    openTrades: open.count,
    winners,
    losers,
    scratches: count - winners - losers,
    winRate: finiteOrNull(winners / count),
    averageTrade: finiteOrNull((grossProfit + grossLoss) / count),
    averageWin: finiteOrNull(averageWin),
    averageLoss: finiteOrNull(averageLoss),
    largestWin: finiteOrNull(largestWin),
    largestLoss: finiteOrNull(largestLoss),
    medianTrade: count === 0 ? null : median(net),
    payoffRatio: finiteOrNull(averageWin / -averageLoss),
    expectancyR: withStop === 0 ? null : r / withStop,
    tradeT: deviation > 0 ? finiteOrNull(mean(net) / (deviation / Math.sqrt(count))) : null,
    maxWinRun,
    maxLossRun,
    averageBars: finiteOrNull(bars / count),
    averageBarsWin: finiteOrNull(barsWin / winners),
    averageBarsLoss: finiteOrNull(barsLoss / losers),
    tradesPerMonth: finiteOrNull(count / (days / (365.25 / 12))),
    tradesPerYear: finiteOrNull(count / (days / 365.25)),
  };
}

/** Money at risk to the initial stop: units · pointValue · distance; NaN without a stop. */
export function riskOf(simulation: Simulation, row: number): number {
  const { log, legs } = simulation;
  return log.units[row] * legs[log.leg[row]].pointValue * log.stopDistance[row];
}
