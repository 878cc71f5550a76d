import { rollingPercentile } from "./ranks";
import { pairMoments } from "./sliding";

/** Largest (sign 1) or smallest (sign −1) of the last n values, by a monotonic queue: linear in the bars whatever n is. */
function extreme(x: Float64Array, n: number, sign: 1 | -1): Float64Array {
  const out = new Float64Array(x.length).fill(NaN);
  const queue = new Int32Array(x.length);
  let head = 0;
  let tail = 0;
  let run = 0;
  for (let i = 0; i < x.length; i++) {
    const value = x[i];
    if (value !== value) {
      run = 0;
      head = tail = 0;
      continue;
    }
    run++;
    while (tail > head && sign * x[queue[tail - 1]] <= sign * value) tail--;
    queue[tail++] = i;
    if (queue[head] <= i - n) head++;
    if (run >= n) out[i] = x[queue[head]];
  }
  return out;
}

/** Largest value of the last n. */
export const highest = (x: Float64Array, n: number): Float64Array => extreme(x, n, 1);

/** Smallest value of the last n. */
export const lowest = (x: Float64Array, n: number): Float64Array => extreme(x, n, -1);

/** Population standard deviation (÷ n) of the last n values; exactly 0 where all are equal. */
export function stdev(x: Float64Array, n: number): Float64Array {
  return pairMoments(x, x, n, (squares, _xx, _yy, equal) => (equal ? 0 : Math.sqrt(squares / n)));
}

/** Median of the last n values; the mean of the middle two where n is even. */
export const median = (x: Float64Array, n: number): Float64Array => rollingPercentile(x, n, 50);
