import { DAY, firstAtOrAfter } from "#core/bars";

/** One fall of the equity from its running peak: where it began, its lowest point, and where the peak was passed again (null: not yet). */
export interface Fall {
  start: number;
  low: number;
  recovered: number | null;
  money: number;
  percent: number;
  /** calendar days from the peak to the recovery, or to the end */
  days: number;
}

/** All falls of a series in the order of time. `times` in milliseconds; the first peak is the capital, at the first point. */
export function fallsOf(times: ArrayLike<number>, equity: ArrayLike<number>, capital: number): Fall[] {
  const out: Fall[] = [];
  let peak = capital;
  let peakTime = times[0];
  let current: Fall | null = null;
  for (let t = 0; t < equity.length; t++) {
    const value = equity[t];
    if (value > peak) {
      if (current !== null) out.push({ ...current, recovered: times[t], days: (times[t] - current.start) / DAY });
      current = null;
      peak = value;
      peakTime = times[t];
    } else if (value < peak) {
      current ??= { start: peakTime, low: times[t], recovered: null, money: 0, percent: 0, days: 0 };
      if (peak - value > current.money) {
        current.money = peak - value;
        current.percent = (100 * (peak - value)) / peak;
        current.low = times[t];
      }
    }
  }
  if (current !== null) out.push({ ...current, days: (times[equity.length - 1] - current.start) / DAY });
  return out;
}

/** Places of a fall's peak and of its lowest point; −1 for one from the starting capital, which began before the first point. */
export function fallPlaces({ start, low, money }: Fall, times: ArrayLike<number>, equity: ArrayLike<number>): [peak: number, low: number] {
  const [peak, bottom] = [firstAtOrAfter(times, start), firstAtOrAfter(times, low)];
  return [equity[peak] < equity[bottom] + money * (1 - 1e-9) ? -1 : peak, bottom];
}

/** Percent fall from the running peak, which starts at the capital; 0 or negative. */
export function percentFalls(values: ArrayLike<number | null>, capital: number): Float64Array {
  let peak = capital;
  const out = new Float64Array(values.length);
  for (let t = 0; t < out.length; t++) {
    const x = values[t] ?? NaN;
    if (x > peak) peak = x;
    out[t] = (100 * (x - peak)) / peak;
  }
  return out;
}
