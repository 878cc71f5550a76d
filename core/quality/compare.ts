import { firstAtOrAfter, isIntraday, MINUTE, type Bars, type Timeframe } from "#core/bars";
import { percentile } from "#core/metrics";

/** A bar that two sources tell differently. */
export interface Difference {
  time: number;
  a: number;
  b: number;
}

/** How B's times would have to be moved, in bars of the common timeframe and in minutes, to agree best with A's. */
export interface Shift {
  bars: number;
  minutes: number;
  /** correlation of the moves under the shift, and without it */
  agreement: number;
  unshifted: number;
}

export interface SourceComparison {
  /** stretch that both cover */
  from: number | null;
  to: number | null;
  /** bars of the same time within the stretch */
  both: number;
  onlyA: number;
  onlyB: number;
  /** closes that are equal */
  equal: number;
  /** percentiles 1, 5, 25, 50, 75, 95, 99 of close B − close A */
  spread: { percent: number; difference: number }[];
  /** counts of differences in ticks, from −bins to bins; the ends hold everything beyond */
  histogram: { ticks: number; count: number }[];
  largest: Difference[];
  /** the shift of B under which most of the stretch agrees best, how well it agrees so, and how well as it stands */
  shift: Shift;
  /** stretches in a row with one shift, where it is not the same all along */
  stretches: (Shift & { from: number; to: number })[];
}

const BINS = 10;
const MOST_SHIFT_DAYS = 3;

/** Five times the usual size of a move: moves are cut there, so that a single wrong price doesn't decide on the whole. */
function moveLimit(bars: Bars): number {
  const sizes: number[] = [];
  const every = Math.max(1, Math.floor(bars.length / 20_000));
  for (let i = 1; i < bars.length; i += every) {
    const size = Math.abs(bars.close[i] - bars.close[i - 1]);
    if (size > 0) sizes.push(size);
  }
  return sizes.length === 0 ? Infinity : 5 * percentile(sizes, 50);
}

/**
 * Correlation of the moves from close to close of both sources, cut at their limits, with B's times moved by `shift`
 * milliseconds; NaN with fewer than 20 pairs.
 */
function agreement(a: Bars, b: Bars, shift: number, from: number, to: number, limits: readonly [number, number]): number {
  const cut = (x: number, limit: number) => Math.max(-limit, Math.min(limit, x));
  let n = 0;
  let sa = 0;
  let sb = 0;
  let saa = 0;
  let sbb = 0;
  let sab = 0;
  let i = firstAtOrAfter(a.time, from);
  let j = firstAtOrAfter(b.time, from - shift);
  let lastI = -1;
  let lastJ = -1;
  while (i < a.length && j < b.length && a.time[i] <= to) {
    const d = a.time[i] - (b.time[j] + shift);
    if (d < 0) i++;
    else if (d > 0) j++;
    else {
      // returns between neighbours only: a gap in one source is no move
      if (lastI === i - 1 && lastJ === j - 1 && lastI >= 0) {
        const x = cut(a.close[i] - a.close[lastI], limits[0]);
        const y = cut(b.close[j] - b.close[lastJ], limits[1]);
        n++;
        sa += x;
        sb += y;
        saa += x * x;
        sbb += y * y;
        sab += x * y;
      }
      lastI = i++;
      lastJ = j++;
    }
  }
  if (n < 20) return NaN;
  return (n * sab - sa * sb) / Math.sqrt((n * saa - sa * sa) * (n * sbb - sb * sb));
}

/** Stretches that are looked at one by one, and bars looked at in each. */
const STRETCHES = 24;
const SAMPLE = 2000;

/** The shift that agrees best on a stretch: one that beats standing still clearly, else none. */
function bestShift(
  a: Bars,
  b: Bars,
  from: number,
  to: number,
  candidates: Iterable<number>,
  step: number,
  limits: readonly [number, number],
): Shift {
  const unshifted = agreement(a, b, 0, from, to, limits);
  let best = { shift: 0, value: Number.isNaN(unshifted) ? -Infinity : unshifted };
  for (const shift of candidates) {
    const value = agreement(a, b, shift, from, to, limits);
    if (value > best.value + 0.1) best = { shift, value };
  }
  return { bars: best.shift / step, minutes: best.shift / MINUTE, agreement: best.value === -Infinity ? NaN : best.value, unshifted };
}

function shiftCandidates(timeframe: Timeframe, step: number): Set<number> {
  const candidates = new Set<number>();
  const both = (shift: number) => void candidates.add(shift).add(-shift);
  if (isIntraday(timeframe)) {
    // whole half hours, as time zones differ by, and a few bars to either side, as stamps at a bar's end do
    for (let k = 1; k <= 5; k++) both(k * step);
    for (let minutes = 30; minutes <= 26 * 60; minutes += 30) if ((minutes * MINUTE) % step === 0) both(minutes * MINUTE);
  } else for (let k = 1; k <= MOST_SHIFT_DAYS; k++) both(k * step);
  return candidates;
}

/** The shift of every stretch from one time to another, and the one that most of them share. */
function findShifts(a: Bars, b: Bars, from: number, to: number, timeframe: Timeframe): Pick<SourceComparison, "shift" | "stretches"> {
  const step = isIntraday(timeframe) ? timeframe.count * MINUTE : 86_400_000;
  const limits = [moveLimit(a), moveLimit(b)] as const;
  const candidates = shiftCandidates(timeframe, step);
  const first = firstAtOrAfter(a.time, from);
  const last = firstAtOrAfter(a.time, to);
  const count = Math.max(1, Math.min(STRETCHES, Math.floor((last - first) / 100)));
  const stretches: (Shift & { from: number; to: number })[] = [];
  const votes = new Map<number, number>();
  for (let k = 0; k < count; k++) {
    const start = first + Math.floor(((last - first) * k) / count);
    const end = first + Math.floor(((last - first) * (k + 1)) / count);
    const [low, high] = [a.time[start], a.time[Math.min(end, start + SAMPLE, a.length - 1)]];
    const shift = bestShift(a, b, low, high, candidates, step, limits);
    votes.set(shift.minutes, (votes.get(shift.minutes) ?? 0) + 1);
    const before = stretches[stretches.length - 1];
    if (before !== undefined && before.minutes === shift.minutes) before.to = a.time[Math.max(start, end - 1)];
    else stretches.push({ ...shift, from: a.time[start], to: a.time[Math.max(start, end - 1)] });
  }
  const [minutes] = [...votes].sort((x, y) => y[1] - x[1])[0];
  const shared = stretches.find((stretch) => stretch.minutes === minutes)!;
  const { bars, agreement: agrees, unshifted } = shared;
  return { shift: { bars, minutes, agreement: agrees, unshifted }, stretches: stretches.length > 1 ? stretches : [] };
}

/** Sets two sources of one market and timeframe beside each other. `tick` is the market's. */
export function compareSources(a: Bars, b: Bars, timeframe: Timeframe, tick: number): SourceComparison {
  const none: SourceComparison = {
    from: null,
    to: null,
    both: 0,
    onlyA: 0,
    onlyB: 0,
    equal: 0,
    spread: [],
    histogram: [],
    largest: [],
    shift: { bars: 0, minutes: 0, agreement: NaN, unshifted: NaN },
    stretches: [],
  };
  if (a.length === 0 || b.length === 0) return none;
  const from = Math.max(a.time[0], b.time[0]);
  const to = Math.min(a.time[a.length - 1], b.time[b.length - 1]);
  if (from > to) return none;
  const out: SourceComparison = { ...none, from, to };
  const differences: number[] = [];
  const pairs: Difference[] = [];
  const counts = new Float64Array(2 * BINS + 1);
  let i = firstAtOrAfter(a.time, from);
  let j = firstAtOrAfter(b.time, from);
  while ((i < a.length && a.time[i] <= to) || (j < b.length && b.time[j] <= to)) {
    const ta = i < a.length && a.time[i] <= to ? a.time[i] : Infinity;
    const tb = j < b.length && b.time[j] <= to ? b.time[j] : Infinity;
    if (ta < tb) {
      out.onlyA++;
      i++;
    } else if (tb < ta) {
      out.onlyB++;
      j++;
    } else {
      out.both++;
      const d = b.close[j] - a.close[i];
      if (d === 0) out.equal++;
      else pairs.push({ time: ta, a: a.close[i], b: b.close[j] });
      differences.push(d);
      counts[Math.max(-BINS, Math.min(BINS, Math.round(d / tick))) + BINS]++;
      i++;
      j++;
    }
  }
  out.spread =
    out.both === 0 ? [] : [1, 5, 25, 50, 75, 95, 99].map((percent) => ({ percent, difference: percentile(differences, percent) }));
  out.histogram = Array.from(counts, (count, k) => ({ ticks: k - BINS, count }));
  out.largest = pairs.sort((x, y) => Math.abs(y.b - y.a) - Math.abs(x.b - x.a)).slice(0, 50);

  Object.assign(out, findShifts(a, b, from, to, timeframe));
  return out;
}
