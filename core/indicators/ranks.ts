import { inOrder } from "./ordered";
import { SMALL } from "./sliding";

/** Calls `take` with the end of every full window of n values without a missing one. */
function windows(x: Float64Array, n: number, take: (end: number) => number): Float64Array {
  const out = new Float64Array(x.length).fill(NaN);
  let run = 0;
  for (let i = 0; i < x.length; i++) {
    run = x[i] !== x[i] ? 0 : run + 1;
    if (run >= n) out[i] = take(i);
  }
  return out;
}

/** Bars since the window's highest (sign 1) or lowest (sign −1) value, the most recent where several tie; by a monotonic queue. */
function age(x: Float64Array, n: number, sign: 1 | -1): Float64Array {
  const out = new Float64Array(x.length).fill(NaN);
  const queue = new Int32Array(x.length);
  let [head, tail, run] = [0, 0, 0];
  for (let i = 0; i < x.length; i++) {
    const value = x[i];
    if (value !== value) {
      run = head = tail = 0;
      continue;
    }
    run++;
    while (tail > head && sign * x[queue[tail - 1]] <= sign * value) tail--;
    queue[tail++] = i;
    if (queue[head] <= i - n) head++;
    if (run >= n) out[i] = i - queue[head];
  }
  return out;
}

export const ageOfHighest = (x: Float64Array, n: number): Float64Array => age(x, n, 1);
export const ageOfLowest = (x: Float64Array, n: number): Float64Array => age(x, n, -1);

/** Highest (or lowest) value of all bars so far; missing values are passed over. */
function ever(x: Float64Array, sign: 1 | -1): Float64Array {
  let best = NaN;
  return x.map((value) => {
    if (value === value && (best !== best || sign * value > sign * best)) best = value;
    return best;
  });
}

export const highestEver = (x: Float64Array): Float64Array => ever(x, 1);
export const lowestEver = (x: Float64Array): Float64Array => ever(x, -1);

/** The p-th percentile of the last n values, by linear interpolation between the two nearest ranks. */
export function rollingPercentile(x: Float64Array, n: number, p: number): Float64Array {
  const at = ((n - 1) * p) / 100;
  const low = Math.floor(at);
  const high = Math.min(low + 1, n - 1);
  const between = (below: number, above: number) => below + (above - below) * (at - low);
  if (n > SMALL) return inOrder(x, n, (window) => between(window.at(low), window.at(high)));
  const window = new Float64Array(n);
  return windows(x, n, (end) => {
    window.set(x.subarray(end - n + 1, end + 1));
    window.sort();
    return between(window[low], window[high]);
  });
}

/** Share in percent of the window's other n − 1 values that lie below x; missing where n is 1. */
export function percentRank(x: Float64Array, n: number): Float64Array {
  if (n > SMALL) return inOrder(x, n, (window, end) => (100 * window.below(x[end])) / (n - 1));
  return windows(x, n, (end) => {
    let below = 0;
    for (let k = end - n + 1; k < end; k++) if (x[k] < x[end]) below++;
    return n === 1 ? NaN : (100 * below) / (n - 1);
  });
}

/** Sum over all bars so far, missing values counted as 0. */
export function cumulative(x: Float64Array): Float64Array {
  let total = 0;
  return x.map((value) => (total += value === value ? value : 0));
}
