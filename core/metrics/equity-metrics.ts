import { DAY } from "#core/bars";
import type { Metrics } from "#core/documents";
import type { Simulation } from "#core/engine";
import { mean, normalCdf } from "./statistics";
import { finiteOrNull } from "./trade-metrics";

/** Calendar length of a run in days: from the first bar's start to the last bar's end. */
export function runDays(simulation: Simulation): number {
  const { run } = simulation;
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
export function drawdowns(equity: ArrayLike<number>, times: ArrayLike<number>, capital: number): Drawdowns {
  let peak = capital;
  let peakTime = times[0];
  let money = 0;
  let percent = 0;
  let squaresSum = 0;
  let below = 0;
  let longest = 0;
  let under = false;
  let total = 0;
  for (let t = 0; t < equity.length; t++) {
    const value = equity[t];
    total += value;
    if (value > peak) {
      if (under && times[t] - peakTime > longest) longest = times[t] - peakTime;
      under = false;
      peak = value;
      peakTime = times[t];
    } else if (value < peak) {
      under = true;
      below++;
      const fall = peak - value;
      if (fall > money) money = fall;
      const share = (100 * fall) / peak;
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
export function lineFit(series: ArrayLike<number>, level = mean(series)): number | null {
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

/** Whether all values are equal; tells at the first that differs. */
function isLevel(x: Float64Array): boolean {
  for (let i = 1; i < x.length; i++) if (x[i] !== x[0]) return false;
  return true;
}

/** Shape of a series of returns: annualised where the name says so, per period else. */
export function returnMetrics(returns: Float64Array | null, perYear: number): Metrics {
  const none = { volatility: null, sharpe: null, sortino: null, skew: null, kurtosis: null, probabilisticSharpe: null };
  if (returns === null || returns.length < 2) return none;
  const n = returns.length;
  const average = mean(returns);
  let second = 0;
  let third = 0;
  let fourth = 0;
  let downside = 0;
  for (let i = 0; i < n; i++) {
    const d = returns[i] - average;
    const square = d * d;
    second += square;
    third += square * d;
    fourth += square * square;
    if (returns[i] < 0) downside += returns[i] * returns[i];
  }
  if (second === 0 || isLevel(returns)) return { ...none, volatility: 0 };
  const deviation = Math.sqrt(second / (n - 1));
  second /= n;
  const skew = third / n / second ** 1.5;
  const kurtosis = fourth / n / (second * second);
  const perPeriod = average / deviation;
  return {
    volatility: deviation * Math.sqrt(perYear) * 100,
    sharpe: perPeriod * Math.sqrt(perYear),
    sortino: finiteOrNull((average / Math.sqrt(downside / n)) * Math.sqrt(perYear)),
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
