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

/** Population standard deviation (÷ n) of the last n values, in two passes per window; exactly 0 where all are equal. */
export function stdev(x: Float64Array, n: number): Float64Array {
  const out = new Float64Array(x.length).fill(NaN);
  let run = 0;
  let same = 0;
  for (let i = 0; i < x.length; i++) {
    const value = x[i];
    if (value !== value) {
      run = 0;
      same = 0;
      continue;
    }
    run++;
    same = run > 1 && x[i - 1] === value ? same + 1 : 1;
    if (run < n) continue;
    if (same >= n) {
      out[i] = 0;
      continue;
    }
    let total = 0;
    for (let k = i - n + 1; k <= i; k++) total += x[k];
    const mean = total / n;
    let squares = 0;
    for (let k = i - n + 1; k <= i; k++) squares += (x[k] - mean) * (x[k] - mean);
    out[i] = Math.sqrt(squares / n);
  }
  return out;
}

/** Median of the last n values; the mean of the middle two where n is even. */
export function median(x: Float64Array, n: number): Float64Array {
  const out = new Float64Array(x.length).fill(NaN);
  const window = new Float64Array(n);
  let run = 0;
  for (let i = 0; i < x.length; i++) {
    run = x[i] !== x[i] ? 0 : run + 1;
    if (run < n) continue;
    window.set(x.subarray(i - n + 1, i + 1));
    window.sort();
    out[i] = n % 2 === 1 ? window[(n - 1) / 2] : (window[n / 2 - 1] + window[n / 2]) / 2;
  }
  return out;
}
