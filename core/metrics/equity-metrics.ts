import { DAY } from "#core/bars";
import type { Metrics } from "#core/documents";
import type { PreparedRun } from "#core/engine";
import { mean, normalCdf } from "./statistics";
import { finiteOrNull } from "./trade-metrics";

const knownDays = new WeakMap<PreparedRun, number>();

/** Calendar length of a run in days: from the first bar's start to the last bar's end. */
export function runDays({ run }: { run: PreparedRun }): number {
  let days = knownDays.get(run);
  if (days === undefined) knownDays.set(run, (days = daysOf(run)));
  return days;
}

function daysOf(run: PreparedRun): number {
  const { times, rows } = run.clock;
  const last = times.length - 1;
  const traded = run.members.flatMap((member) => member.markets);
  const market = run.markets[traded.find((m) => rows[m] === null || rows[m]![last] >= 0)!];
  return (market.calendar.endOf(times[last], run.members[0].compiled.timeframe) - times[0]) / DAY;
}

/** Compound growth per year in percent: 100·((last/capital)^(365.25/days) − 1); null where the last equity is ≤ 0. */
export function cagrOf(last: number, capital: number, days: number): number | null {
  return last > 0 ? finiteOrNull(100 * ((last / capital) ** (365.25 / days) - 1)) : null;
}

export interface Drawdowns {
  maxDrawdown: number;
  maxDrawdownPercent: number;
  longestDrawdownDays: number;
  timeUnderWater: number;
  ulcer: number;
  /** mean of the series, found on the way */
  average: number;
}

/** Falls of a series from its running peak, which starts at the capital. */
export function drawdowns(equity: Float64Array, times: Float64Array, capital: number): Drawdowns {
  let peak = capital;
  let peakTime = times[0];
  let money = 0;
  let percent = 0;
  let squaresSum = 0;
  let below = 0;
  let longest = 0;
  let under = false;
  let total = 0;
  let scale = 100 / peak;
  for (let t = 0; t < equity.length; t++) {
    const value = equity[t];
    total += value;
    if (value > peak) {
      if (under && times[t] - peakTime > longest) longest = times[t] - peakTime;
      under = false;
      peak = value;
      scale = 100 / peak;
      peakTime = times[t];
    } else if (value < peak) {
      under = true;
      below++;
      const fall = peak - value;
      if (fall > money) money = fall;
      const share = fall * scale;
      if (share > percent) percent = share;
      squaresSum += share * share;
    }
  }
  const end = times[equity.length - 1];
  if (under && end - peakTime > longest) longest = end - peakTime;
  return {
    maxDrawdown: money,
    maxDrawdownPercent: percent,
    longestDrawdownDays: longest / DAY,
    timeUnderWater: below / equity.length,
    ulcer: Math.sqrt(squaresSum / equity.length),
    average: total / equity.length,
  };
}

/** Largest fall of capital + cumulated net of closed trades, in the order of their exits. */
export function closedDrawdown(net: ArrayLike<number>, capital: number): number {
  let value = capital;
  let peak = value;
  let largest = 0;
  for (let i = 0; i < net.length; i++) {
    value += net[i];
    if (value > peak) peak = value;
    else if (peak - value > largest) largest = peak - value;
  }
  return largest;
}

/** R² of a straight line through the series against its index, with the slope's sign; null where the series does not vary. */
export function lineFit(series: Float64Array, level = mean(series)): number | null {
  const n = series.length;
  const centre = (n - 1) / 2;
  let xy = 0;
  let yy = 0;
  for (let i = 0; i < n; i++) {
    const y = series[i] - level;
    xy += (i - centre) * y;
    yy += y * y;
  }
  const xx = (n * (n * n - 1)) / 12;
  return finiteOrNull((Math.sign(xy) * xy * xy) / (xx * yy));
}

/** A series of returns with its mean and moments: sums of powers of the distances from the mean, and of squared losses. */
export interface Moments {
  returns: Float64Array;
  mean: number;
  /** 0 where all returns are equal */
  squares: number;
  cubes: number;
  fourths: number;
  losses: number;
}

/** Moments of a series of returns, in two passes; null without returns. */
export function momentsOf(returns: Float64Array | null): Moments | null {
  if (returns === null || returns.length === 0) return null;
  let total = 0;
  let level = true;
  const first = returns[0];
  for (let i = 0; i < returns.length; i++) {
    total += returns[i];
    if (returns[i] !== first) level = false;
  }
  const average = total / returns.length;
  let squares = 0;
  let cubes = 0;
  let fourths = 0;
  let losses = 0;
  for (let i = 0; i < returns.length; i++) {
    const x = returns[i];
    const d = x - average;
    const square = d * d;
    squares += square;
    cubes += square * d;
    fourths += square * square;
    const loss = Math.min(x, 0);
    losses += loss * loss;
  }
  return { returns, mean: average, squares: level ? 0 : squares, cubes, fourths, losses };
}

/** Shape of a series of returns: annualised where the name says so, per period else. */
export function returnMetrics(moments: Moments | null, perYear: number): Metrics {
  const none = { volatility: null, sharpe: null, sortino: null, skew: null, kurtosis: null, probabilisticSharpe: null };
  if (moments === null || moments.returns.length < 2) return none;
  const n = moments.returns.length;
  if (moments.squares === 0) return { ...none, volatility: 0 };
  const deviation = Math.sqrt(moments.squares / (n - 1));
  const second = moments.squares / n;
  const skew = moments.cubes / n / second ** 1.5;
  const kurtosis = moments.fourths / n / (second * second);
  const perPeriod = moments.mean / deviation;
  return {
    volatility: deviation * Math.sqrt(perYear) * 100,
    sharpe: perPeriod * Math.sqrt(perYear),
    sortino: finiteOrNull((moments.mean / Math.sqrt(moments.losses / n)) * Math.sqrt(perYear)),
    skew,
    kurtosis,
    probabilisticSharpe: probabilisticSharpe(perPeriod, n, skew, kurtosis, 0),
  };
}

/** Probability that the true Sharpe ratio is above a benchmark, both per period (Bailey and López de Prado 2012, *The Sharpe Ratio Efficient Frontier*). */
export function probabilisticSharpe(sharpe: number, n: number, skew: number, kurtosis: number, benchmark: number): number | null {
  const spread = 1 - skew * sharpe + ((kurtosis - 1) / 4) * sharpe * sharpe;
  return finiteOrNull(normalCdf(((sharpe - benchmark) * Math.sqrt(n - 1)) / Math.sqrt(spread)));
}
