import { firstAtOrAfter, parseDate } from "#core/bars";
import type { Metrics } from "#core/documents";
import type { PreparedRun, Simulation } from "#core/engine";
import { cagrOf, drawdowns } from "./equity-metrics";
import { periodReturns } from "./returns";
import { mean, sampleDeviation, squares } from "./statistics";
import { finiteOrNull } from "./trade-metrics";

/**
 * Buy and hold of the benchmark market with all the capital and no costs, on the run's clock: capital · last known close ÷
 * its first open within the run, the capital before its first bar. Null without a benchmark or where that open is ≤ 0.
 */
export function benchmarkEquity(simulation: Simulation): Float64Array | null {
  const { run } = simulation;
  const { settings, account } = run;
  const index = settings.markets.findIndex((market) => market.symbol === settings.benchmark);
  if (index < 0) return null;
  const { bars, dates } = run.markets[index];
  const { times } = run.clock;
  const from = settings.from === null ? -Infinity : parseDate(settings.from)!;
  let first = 0;
  while (first < bars.length && dates[first] < from) first++;
  if (first === bars.length || !(bars.open[first] > 0)) return null;
  const out = new Float64Array(times.length);
  let row = firstAtOrAfter(bars.time, times[0]) - 1;
  for (let t = 0; t < times.length; t++) {
    while (row + 1 < bars.length && bars.time[row + 1] <= times[t]) row++;
    out[t] = row < first ? account.capital : (account.capital * bars.close[row]) / bars.open[first];
  }
  return out;
}

/** What the benchmark's figures rest on; the same for every trial of a run. */
interface Held {
  netPercent: number;
  cagr: number | null;
  maxDrawdownPercent: number;
  returns: Float64Array | null;
  mean: number;
  squares: number;
}

const known = new WeakMap<PreparedRun, Held | null>();

function heldOf(simulation: Simulation, ends: Int32Array, days: number): Held | null {
  const { run } = simulation;
  let held = known.get(run);
  if (held === undefined) known.set(run, (held = measure(simulation, ends, days)));
  return held;
}

function measure(simulation: Simulation, ends: Int32Array, days: number): Held | null {
  const equity = benchmarkEquity(simulation);
  if (equity === null) return null;
  const { capital } = simulation.run.account;
  const last = equity[equity.length - 1];
  const returns = periodReturns(equity, ends, capital);
  const varies = returns !== null && sampleDeviation(returns) > 0;
  const centre = varies ? mean(returns) : NaN;
  return {
    netPercent: 100 * (last / capital - 1),
    cagr: cagrOf(last, capital, days),
    maxDrawdownPercent: drawdowns(equity, simulation.run.clock.times, capital).maxDrawdownPercent,
    returns: varies ? returns : null,
    mean: centre,
    squares: varies ? squares(returns, centre) : NaN,
  };
}

/** The benchmark's own figures, and the regression of the run's returns (with their mean and sum of squared distances) on its. */
export function benchmarkMetrics(
  simulation: Simulation,
  own: { returns: Float64Array; mean: number; squares: number } | null,
  ends: Int32Array,
  days: number,
  perYear: number,
): Metrics {
  const held = heldOf(simulation, ends, days);
  const figures: Metrics = {
    benchmarkNetPercent: held?.netPercent ?? null,
    benchmarkCagr: held?.cagr ?? null,
    benchmarkMaxDrawdownPercent: held?.maxDrawdownPercent ?? null,
    beta: null,
    alpha: null,
    correlation: null,
  };
  if (held === null || held.returns === null || own === null || own.returns.length < 2) return figures;
  return Object.assign(figures, regression(own, { ...held, returns: held.returns }, perYear));
}

/** Returns with their mean and the sum of their squared distances from it. */
export interface Moments {
  returns: Float64Array;
  mean: number;
  squares: number;
}

/** The returns' mean and squares about it. */
export function centred(returns: Float64Array): Moments {
  const centre = mean(returns);
  return { returns, mean: centre, squares: squares(returns, centre) };
}

/** Least squares of a run's returns on a benchmark's that vary: slope, what is left per year in percent, correlation. */
export function regression(own: Moments, held: Moments, perYear: number): Record<"beta" | "alpha" | "correlation", number | null> {
  let together = 0;
  const { returns } = own;
  for (let i = 0; i < returns.length; i++) together += (returns[i] - own.mean) * (held.returns[i] - held.mean);
  const beta = together / held.squares;
  return {
    beta: finiteOrNull(beta),
    alpha: finiteOrNull((own.mean - beta * held.mean) * perYear * 100),
    correlation: own.squares > 0 ? finiteOrNull(together / Math.sqrt(own.squares * held.squares)) : null,
  };
}
