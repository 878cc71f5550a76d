import {
  ENGINE_VERSION,
  packParts,
  type PackedResult,
  type ResultHead,
  type RunResult,
  type Trade,
  type TradeLevels,
} from "#core/documents";
import { excursion, REASONS, type Simulation } from "#core/engine";
import { computeMetrics, periodTables, riskOf } from "#core/metrics";

/** What there is of a result beside its long columns. */
export const headOf = (simulation: Simulation, fingerprint: string): ResultHead => ({
  format: "canyon.result/1",
  engine: ENGINE_VERSION,
  fingerprint,
  halted: simulation.halted,
  metrics: computeMetrics(simulation),
  tables: periodTables(simulation),
});

/** Turns a simulation into the open document `canyon.result/1`. */
export function resultOf(simulation: Simulation, fingerprint: string): RunResult {
  const { run, equity, balances } = simulation;
  const { format, engine, halted, metrics, tables } = headOf(simulation, fingerprint);
  return {
    format,
    engine,
    fingerprint,
    trades: tradesOf(simulation),
    equity: {
      time: Array.from(run.clock.times, (time) => new Date(time).toISOString()),
      equity: Array.from(equity),
      balance: Array.from(balances.column(equity.length)),
    },
    orders: simulation.orders,
    halted,
    metrics,
    tables,
    events: simulation.events,
  };
}

/** A simulation's result in pieces, and its levels, without going by way of the document. */
export function packedOf(simulation: Simulation, fingerprint: string): PackedResult {
  const { run, equity, balances, orders, events } = simulation;
  const curves = { time: Float64Array.from(run.clock.times), equity: equity.slice(), balance: balances.column(equity.length) };
  return packParts(headOf(simulation, fingerprint), { curves, trades: tradesOf(simulation), orders, events, levels: levelsOf(simulation) });
}

/** All trades by id, which counts entry fills from 1. */
export function tradesOf(simulation: Simulation): Trade[] {
  const { log, legs } = simulation;
  return Array.from({ length: log.count }, (_, row): Trade => {
    const leg = legs[log.leg[row]];
    const { bars, spec } = leg.market;
    const open = log.reason[row] === 0;
    const iso = (at: number) => new Date(bars.time[at]).toISOString();
    const net = log.net(row);
    const notional = Math.abs(log.entryPrice[row]) * log.units[row] * spec.pointValue;
    const risk = riskOf(simulation, row);
    return {
      id: row + 1,
      symbol: spec.symbol,
      ...(leg.member.name === null ? {} : { member: leg.member.name }),
      side: log.side[row] === 1 ? "long" : "short",
      units: log.units[row],
      entryTime: iso(log.entryRow[row]),
      entryPrice: log.entryPrice[row],
      entryReason: "rule",
      exitTime: open ? null : iso(log.exitRow[row]),
      exitPrice: open ? null : log.exitPrice[row],
      exitReason: open ? null : (REASONS[log.reason[row]] as Trade["exitReason"]),
      bars: (open ? leg.lastRow : log.exitRow[row]) - log.entryRow[row],
      gross: log.gross[row],
      costs: log.costs[row],
      net,
      percent: notional > 0 ? (100 * net) / notional : null,
      r: risk > 0 ? net / risk : null,
      ...excursion(simulation, row),
      open,
    };
  });
}

/** The levels of all trades by id. The initial stop lies as far from the recorded entry as the trade's risk. */
export function levelsOf({ log }: Simulation): TradeLevels {
  const { count, entryPrice, side, stopDistance, target, stop } = log;
  return {
    stop: Float64Array.from({ length: count }, (_, row) => entryPrice[row] - side[row] * stopDistance[row]),
    target: target.slice(0, count),
    lastStop: stop.slice(0, count),
  };
}
