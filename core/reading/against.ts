import { DAY, firstAtOrAfter, monthOf, type Bars } from "#core/bars";
import { cagrOf, centred, drawdowns, mean, regression, sampleDeviation } from "#core/metrics";

/** Months in which the benchmark went one way. Returns in percent. */
export interface MonthsOneWay {
  count: number;
  own: number | null;
  other: number | null;
  /** own mean ÷ the benchmark's, in percent: what of its way the run went along */
  share: number | null;
}

/** A run held against something that could have been done instead. Percent; null where it can't be computed. */
export interface AgainstFigures {
  netPercent: [own: number, other: number];
  cagr: [own: number | null, other: number | null];
  maxDrawdownPercent: [own: number, other: number];
  /** own growth per year less the other's */
  excess: number | null;
  beta: number | null;
  alpha: number | null;
  correlation: number | null;
  months: number;
  /** months with a better return than the other's */
  better: number;
  up: MonthsOneWay;
  down: MonthsOneWay;
}

/** A curve at a run's own times: its last value at or before each, a first value before that. */
export function atTimes(times: ArrayLike<number>, time: ArrayLike<number>, value: ArrayLike<number>, before: number): Float64Array {
  const out = new Float64Array(times.length);
  let row = -1;
  for (let t = 0; t < times.length; t++) {
    while (row + 1 < time.length && time[row + 1] <= times[t]) row++;
    out[t] = row < 0 ? before : value[row];
  }
  return out;
}

/** Money that is put into a market at its first open within the run and held; in cash until then, and where that open is no price. */
export function heldFrom(bars: Bars, times: ArrayLike<number>, money: number): Float64Array {
  const first = firstAtOrAfter(bars.time, times[0]);
  const open = bars.open[first];
  if (first >= bars.length || !(open > 0)) return new Float64Array(times.length).fill(money);
  const value = atTimes(times, bars.time, bars.close, NaN);
  for (let t = 0; t < value.length; t++) value[t] = times[t] < bars.time[first] ? money : (money * value[t]) / open;
  return value;
}

/** Cash that earns a rate a year, in percent, compounded. */
export function cashFrom(times: ArrayLike<number>, capital: number, rate: number): Float64Array {
  return Float64Array.from({ length: times.length }, (_, t) => capital * (1 + rate / 100) ** ((times[t] - times[0]) / DAY / 365.25));
}

interface Given {
  times: Float64Array;
  own: Float64Array;
  other: Float64Array;
  capital: number;
  /** index of each return period's last point, and how many of them make a year */
  ends: ArrayLike<number>;
  perYear: number;
  days: number;
  /** session dates of the points, in days */
  dates: ArrayLike<number>;
}

/** Figures of two curves that begin with the same capital. */
export function againstFigures({ times, own, other, capital, ends, perYear, days, dates }: Given): AgainstFigures {
  const last = own.length - 1;
  const cagr: AgainstFigures["cagr"] = [cagrOf(own[last], capital, days), cagrOf(other[last], capital, days)];
  const [a, b] = [returnsAt(own, ends, capital), returnsAt(other, ends, capital)];
  const regressed =
    a === null || b === null || a.length < 2 || !(sampleDeviation(b) > 0)
      ? { beta: null, alpha: null, correlation: null }
      : regression(centred(a), centred(b), perYear);
  const monthEnds: number[] = [];
  for (let t = 0; t <= last; t++) if (t === last || monthOf(dates[t]) !== monthOf(dates[t + 1])) monthEnds.push(t);
  const [mine, its] = [returnsAt(own, monthEnds, capital), returnsAt(other, monthEnds, capital)];
  const months = mine === null || its === null ? [] : Array.from(mine, (x, k) => [100 * x, 100 * its[k]] as const);
  return {
    netPercent: [100 * (own[last] / capital - 1), 100 * (other[last] / capital - 1)],
    cagr,
    maxDrawdownPercent: [drawdowns(own, times, capital).maxDrawdownPercent, drawdowns(other, times, capital).maxDrawdownPercent],
    excess: cagr[0] === null || cagr[1] === null ? null : cagr[0] - cagr[1],
    ...regressed,
    months: months.length,
    better: months.filter(([x, y]) => x > y).length,
    up: oneWay(months.filter(([, y]) => y > 0)),
    down: oneWay(months.filter(([, y]) => y < 0)),
  };
}

function oneWay(months: readonly (readonly [own: number, other: number])[]): MonthsOneWay {
  if (months.length === 0) return { count: 0, own: null, other: null, share: null };
  const [own, other] = [mean(months.map(([x]) => x)), mean(months.map(([, y]) => y))];
  return { count: months.length, own, other, share: (100 * own) / other };
}

/** Simple returns between points; null where a value is ≤ 0. */
function returnsAt(curve: Float64Array, ends: ArrayLike<number>, capital: number): Float64Array | null {
  const out = new Float64Array(ends.length);
  let before = capital;
  for (let k = 0; k < ends.length; k++) {
    const now = curve[ends[k]];
    if (!(now > 0)) return null;
    out[k] = now / before - 1;
    before = now;
  }
  return out;
}
