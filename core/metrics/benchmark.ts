import { firstAtOrAfter, parseDate } from "#core/bars";
import type { Metrics } from "#core/documents";
import type { Simulation } from "#core/engine";
import { cagrOf, drawdowns } from "./equity-metrics";
import { periodReturns } from "./returns";
import { correlation, mean, sampleDeviation, squares } from "./statistics";
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

/** The benchmark's own figures, and the regression of the run's returns on its. */
export function benchmarkMetrics(
  simulation: Simulation,
  returns: Float64Array | null,
  ends: Int32Array,
  days: number,
  perYear: number,
): Metrics {
  const held = benchmarkEquity(simulation);
  if (held === null)
    return {
      benchmarkNetPercent: null,
      benchmarkCagr: null,
      benchmarkMaxDrawdownPercent: null,
      beta: null,
      alpha: null,
      correlation: null,
    };
  const { capital } = simulation.run.account;
  const last = held[held.length - 1];
  const theirs = periodReturns(held, ends, capital);
  let regression: Metrics = { beta: null, alpha: null, correlation: null };
  if (returns !== null && theirs !== null && returns.length > 1 && sampleDeviation(theirs) > 0) {
    const [my, mb] = [mean(returns), mean(theirs)];
    let together = 0;
    for (let i = 0; i < returns.length; i++) together += (returns[i] - my) * (theirs[i] - mb);
    const beta = together / squares(theirs, mb);
    regression = {
      beta: finiteOrNull(beta),
      alpha: finiteOrNull((my - beta * mb) * perYear * 100),
      correlation: finiteOrNull(correlation(returns, theirs)),
    };
  }
  return {
    benchmarkNetPercent: 100 * (last / capital - 1),
    benchmarkCagr: cagrOf(last, capital, days),
    benchmarkMaxDrawdownPercent: drawdowns(held, simulation.run.clock.times, capital).maxDrawdownPercent,
    ...regression,
  };
}
