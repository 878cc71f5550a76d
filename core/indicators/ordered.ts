/**
 * The values of a sliding window in order, for medians, percentiles and ranks. The series is taken in stretches about as
 * long as the window; within one, values are counted by rank in a Fenwick tree (Fenwick 1994), so that a bar costs
 * O(log n) whatever the window is.
 */
export class OrderedWindow {
  private ranked = new Float64Array(0);
  private tree = new Int32Array(1);
  private sums = new Float64Array(1);
  private top = 1;
  /** how many values are held */
  size = 0;

  /** Makes room for the values of a stretch; the window is empty afterwards. */
  begin(values: Float64Array): void {
    const sorted = values.filter((value) => value === value).sort();
    let distinct = 0;
    for (let i = 0; i < sorted.length; i++) if (i === 0 || sorted[i] !== sorted[i - 1]) sorted[distinct++] = sorted[i];
    this.ranked = sorted.subarray(0, distinct);
    this.tree = new Int32Array(distinct + 1);
    this.sums = new Float64Array(distinct + 1);
    this.top = 1;
    while (this.top * 2 <= distinct) this.top *= 2;
    this.size = 0;
  }

  /** Puts a value in (1) or takes it out (−1). */
  change(value: number, by: 1 | -1): void {
    for (let i = this.rank(value) + 1; i < this.tree.length; i += i & -i) {
      this.tree[i] += by;
      this.sums[i] += by * value;
    }
    this.size += by;
  }

  /** The k-th smallest value held, from 0. */
  at(k: number): number {
    let place = 0;
    let left = k;
    for (let step = this.top; step > 0; step >>= 1) {
      const next = place + step;
      if (next < this.tree.length && this.tree[next] <= left) {
        place = next;
        left -= this.tree[next];
      }
    }
    return this.ranked[place];
  }

  /** How many values held lie below x. */
  below(x: number): number {
    let count = 0;
    for (let i = this.rank(x); i > 0; i -= i & -i) count += this.tree[i];
    return count;
  }

  /** Sum of the values held that lie below x. */
  sumBelow(x: number): number {
    let sum = 0;
    for (let i = this.rank(x); i > 0; i -= i & -i) sum += this.sums[i];
    return sum;
  }

  /** How many of the stretch's distinct values lie below x. */
  private rank(x: number): number {
    let low = 0;
    let high = this.ranked.length;
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (this.ranked[middle] < x) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}

/** Calls `take` at the end of every full window of n values without a missing one, with the window in order. */
export function inOrder(x: Float64Array, n: number, take: (window: OrderedWindow, end: number) => number): Float64Array {
  const { length } = x;
  const out = new Float64Array(length).fill(NaN);
  const window = new OrderedWindow();
  const stretch = Math.max(n, 1024);
  let run = 0;
  for (let start = 0; start < length; start += stretch) {
    const stop = Math.min(length, start + stretch);
    const first = Math.max(0, start - n);
    window.begin(x.subarray(first, stop));
    for (let i = first; i < start; i++) if (x[i] === x[i]) window.change(x[i], 1);
    for (let i = start; i < stop; i++) {
      if (i >= n && x[i - n] === x[i - n]) window.change(x[i - n], -1);
      if (x[i] === x[i]) {
        window.change(x[i], 1);
        run++;
      } else run = 0;
      if (run >= n) out[i] = take(window, i);
    }
  }
  return out;
}
