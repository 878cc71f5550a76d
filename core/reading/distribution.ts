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
export function histogramOf(values: ArrayLike<number>): Bin[] {
  if (values.length === 0) return [];
  const sorted = Float64Array.from(values).sort();
  const [least, most] = [sorted[0], sorted[sorted.length - 1]];
  if (least === most) return [{ from: Math.min(least, 0), to: least < 0 ? 0 : most || 1, count: values.length }];
  const quartile = (share: number) => {
    const at = (sorted.length - 1) * share;
    const below = Math.floor(at);
    return sorted[below] + (sorted[Math.min(below + 1, sorted.length - 1)] - sorted[below]) * (at - below);
  };
  const spread = quartile(0.75) - quartile(0.25);
  const wanted = spread > 0 ? (2 * spread) / Math.cbrt(values.length) : (most - least) / 10;
  const width = Math.max(wanted, (most - least) / MOST_BINS);
  const first = Math.floor(least / width);
  const last = Math.max(first, Math.ceil(most / width) - 1);
  const bins = Array.from({ length: last - first + 1 }, (_, k): Bin => ({
    from: (first + k) * width,
    to: (first + k + 1) * width,
    count: 0,
  }));
  for (const value of sorted) bins[Math.min(Math.floor(value / width), last) - first].count++;
  return bins;
}
