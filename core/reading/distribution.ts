import { percentile } from "#core/metrics";

/** One bin of a histogram: from its lower edge (included) to its upper one (excluded; the last one's is included). */
export interface Bin {
  from: number;
  to: number;
  count: number;
}

/** More bins than this tell nothing on a screen; they are made wider then. */
const MOST_BINS = 120;

/**
 * Histogram with a bin width of 2·IQR ÷ ∛n (Freedman and Diaconis 1981), zero always a bin edge, so that no bin mixes wins
 * and losses. Where the quartiles are equal, a tenth of the range; one bin where all values are equal.
 */
export function histogramOf(values: readonly number[]): Bin[] {
  if (values.length === 0) return [];
  const [least, most] = [Math.min(...chunked(values, Math.min)), Math.max(...chunked(values, Math.max))];
  if (least === most) return [{ from: Math.min(least, 0), to: least < 0 ? 0 : most || 1, count: values.length }];
  const spread = percentile(values, 75) - percentile(values, 25);
  const wanted = spread > 0 ? (2 * spread) / Math.cbrt(values.length) : (most - least) / 10;
  const width = Math.max(wanted, (most - least) / MOST_BINS);
  const first = Math.floor(least / width);
  const last = Math.max(first, Math.ceil(most / width) - 1);
  const bins = Array.from({ length: last - first + 1 }, (_, k): Bin => ({
    from: (first + k) * width,
    to: (first + k + 1) * width,
    count: 0,
  }));
  for (const value of values) bins[Math.min(Math.floor(value / width), last) - first].count++;
  return bins;
}

/** Extremes of parts, since a long list can't be handed to a function as its arguments. */
function chunked(values: readonly number[], of: (...some: number[]) => number): number[] {
  const out: number[] = [];
  for (let i = 0; i < values.length; i += 10_000) out.push(of(...values.slice(i, i + 10_000)));
  return out;
}
