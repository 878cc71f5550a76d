import { percentile } from "#core/metrics";
import { Random } from "#core/random";
import { LEAST_RETURNS, type Interval } from "#core/reading";

/** Draws of days in blocks, the same for all members, so that what fell together falls together. */
export interface Draws {
  /** returns of the account by draw and day, one after the other */
  returns: Float64Array;
  days: number;
  samples: number;
  block: number;
}

/** What nine of ten draws lie between, and shares of all of them. */
export interface DrawnAccount {
  samples: number;
  block: number;
  netPercent: Interval;
  maxDrawdownPercent: Interval;
  /** 95 of 100 draws fell no deeper, % */
  drawdown95: number;
  /** share that lost money */
  lost: number;
}

/**
 * Draws an account's days anew: circular blocks of about the cube root of their number (Politis and Romano 1992), taken for
 * all members at once. `apart` draws each member by itself instead, as if none knew of the others. `added`: what each member
 * added to the account's return of every day. Null for fewer than 60 days.
 */
export function drawDays(added: readonly Float64Array[], seed: number, samples = 2000, apart = false): Draws | null {
  const days = added[0].length;
  if (days < LEAST_RETURNS) return null;
  const block = Math.max(1, Math.round(days ** (1 / 3)));
  const returns = new Float64Array(days * samples);
  const groups = apart ? added.map((series) => [series]) : [added];
  groups.forEach((group, g) => {
    const random = new Random(seed, g);
    const sum = group.length === 1 ? group[0] : group[0].map((_, t) => group.reduce((total, series) => total + series[t], 0));
    for (let k = 0; k < samples; k++) {
      const end = (k + 1) * days;
      for (let i = k * days; i < end;) {
        let at = Math.floor(random.uniform() * days);
        for (let j = 0; j < block && i < end; j++, i++) {
          returns[i] += sum[at];
          if (++at === days) at = 0;
        }
      }
    }
  });
  return { returns, days, samples, block };
}

/** What draws come to with all positions so many times as large. */
export function drawnAccount({ returns, days, samples, block }: Draws, size = 1): DrawnAccount {
  const net = new Float64Array(samples);
  const fall = new Float64Array(samples);
  for (let k = 0; k < samples; k++) {
    const { value, deepest } = path(returns, k * days, (k + 1) * days, size);
    net[k] = 100 * (value - 1);
    fall[k] = 100 * deepest;
  }
  return {
    samples,
    block,
    netPercent: interval(net),
    maxDrawdownPercent: interval(fall),
    drawdown95: percentile(fall, 95),
    lost: net.reduce((sum, x) => sum + (x < 0 ? 1 : 0), 0) / samples,
  };
}

/** One draw's last value and its deepest fall from a peak, from 1; an account at 0 stays there. */
function path(returns: Float64Array, from: number, to: number, size: number): { value: number; deepest: number } {
  let [value, peak, deepest] = [1, 1, 0];
  for (let i = from; i < to; i++) {
    value *= 1 + size * returns[i];
    if (value <= 0) return { value: 0, deepest: 1 };
    if (value > peak) peak = value;
    else if (peak - value > deepest * peak) deepest = (peak - value) / peak;
  }
  return { value, deepest };
}

const interval = (values: ArrayLike<number>): Interval => ({
  low: percentile(values, 5),
  middle: percentile(values, 50),
  high: percentile(values, 95),
});

const LARGEST = 20;

/**
 * How many times as large all positions may be so that 95 of 100 draws fall no deeper than `most` percent, to a thousandth;
 * 20 where even that is not too large. Returns are taken to grow with the size, which margin and whole units may not allow.
 */
export function sizeFor({ returns, days, samples }: Draws, most: number): number {
  const allowed = Math.ceil(samples * 0.95);
  const holds = (size: number): boolean => {
    let within = 0;
    for (let k = 0; k < samples; k++) {
      if (100 * path(returns, k * days, (k + 1) * days, size).deepest <= most) within++;
      if (within + (samples - k - 1) < allowed) return false;
    }
    return within >= allowed;
  };
  if (holds(LARGEST)) return LARGEST;
  let [low, high] = [0, LARGEST];
  while (high - low > 0.001) {
    const middle = (low + high) / 2;
    if (holds(middle)) low = middle;
    else high = middle;
  }
  return low;
}
