import type { Simulation } from "#core/engine";
import { benchmarkEquity, computeMetrics } from "#core/metrics";
import { tradesOf } from "#core/runs";
import type { BacktestView } from "./protocol";

/** What a page shows of a simulation. */
export function viewOf(simulation: Simulation, took: number): BacktestView {
  const { run, log } = simulation;
  const level = (x: number) => (Number.isNaN(x) ? null : x);
  return {
    times: run.clock.times.slice(),
    equity: simulation.equity,
    benchmark: benchmarkEquity(simulation),
    metrics: computeMetrics(simulation),
    trades: tradesOf(simulation),
    levels: Array.from({ length: log.count }, (_, row) => ({ stop: level(log.stop[row]), target: level(log.target[row]) })),
    halted: simulation.halted,
    events: simulation.events,
    bars: run.clock.times.length,
    took,
  };
}
