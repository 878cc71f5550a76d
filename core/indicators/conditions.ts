/** Bars since a condition was last yes, 0 now; missing while it never was. */
export function ageOf(condition: ArrayLike<number>): Float64Array {
  const out = new Float64Array(condition.length).fill(NaN);
  let last = -1;
  for (let i = 0; i < out.length; i++) {
    if (condition[i] === 1) last = i;
    if (last >= 0) out[i] = i - last;
  }
  return out;
}

/** How often a condition was yes on the last n bars; missing before there are so many. */
export function countOf(condition: ArrayLike<number>, n: number): Float64Array {
  const out = new Float64Array(condition.length).fill(NaN);
  let count = 0;
  for (let i = 0; i < out.length; i++) {
    count += condition[i];
    if (i >= n) count -= condition[i - n];
    if (i >= n - 1) out[i] = count;
  }
  return out;
}

/** x on the last bar on which a condition was yes; missing while it never was. */
export function atLast(condition: ArrayLike<number>, x: Float64Array): Float64Array {
  let last = NaN;
  return x.map((value, i) => {
    if (condition[i] === 1) last = value;
    return last;
  });
}
