/** Arithmetic mean; NaN of nothing. */
export function mean(x: ArrayLike<number>): number {
  let total = 0;
  for (let i = 0; i < x.length; i++) total += x[i];
  return total / x.length;
}

/** Sum of squared distances from a centre. */
export function squares(x: ArrayLike<number>, centre: number): number {
  let total = 0;
  for (let i = 0; i < x.length; i++) total += (x[i] - centre) * (x[i] - centre);
  return total;
}

/** Sample standard deviation (÷ n − 1); exactly 0 where all values are equal, NaN for fewer than two. */
export function sampleDeviation(x: ArrayLike<number>): number {
  if (x.length < 2) return NaN;
  let same = true;
  for (let i = 1; same && i < x.length; i++) same = x[i] === x[0];
  return same ? 0 : Math.sqrt(squares(x, mean(x)) / (x.length - 1));
}

/** Pearson correlation; NaN where one side does not vary. */
export function correlation(x: ArrayLike<number>, y: ArrayLike<number>): number {
  if (sampleDeviation(x) === 0 || sampleDeviation(y) === 0) return NaN;
  const [mx, my] = [mean(x), mean(y)];
  let xy = 0;
  for (let i = 0; i < x.length; i++) xy += (x[i] - mx) * (y[i] - my);
  return xy / Math.sqrt(squares(x, mx) * squares(y, my));
}

/** Median of a list; NaN of nothing. */
export function median(x: ArrayLike<number>): number {
  const sorted = new Float64Array(x).sort();
  const half = sorted.length >> 1;
  return sorted.length % 2 === 1 ? sorted[half] : (sorted[half - 1] + sorted[half]) / 2;
}

/** Percentile p (0 to 100) of a list, by linear interpolation between the two nearest ranks; NaN of nothing. */
export function percentile(x: ArrayLike<number>, p: number): number {
  const sorted = new Float64Array(x).sort();
  const at = ((sorted.length - 1) * p) / 100;
  const low = Math.floor(at);
  const high = Math.min(low + 1, sorted.length - 1);
  return sorted[low] + (sorted[high] - sorted[low]) * (at - low);
}

/**
 * Standard normal distribution function, to about 1e-15: the complementary error function by its series near 0 and by
 * a continued fraction (Lentz) in the tails (Abramowitz and Stegun 1964, 7.1.5 and 26.2.14).
 */
export function normalCdf(x: number): number {
  if (x !== x) return NaN;
  const a = Math.abs(x);
  if (a > 39) return x > 0 ? 1 : 0;
  const density = Math.exp((-a * a) / 2) / Math.sqrt(2 * Math.PI);
  let tail: number;
  if (a < 3) {
    let term = a;
    let total = a;
    for (let k = 1; k < 200 && Math.abs(term) > 1e-18 * total; k++) {
      term *= (a * a) / (2 * k + 1);
      total += term;
    }
    tail = 0.5 - density * total;
  } else {
    let fraction = 0;
    for (let k = 120; k >= 1; k--) fraction = k / (a + fraction);
    tail = density / (a + fraction);
  }
  return x > 0 ? 1 - tail : tail;
}

/**
 * Standard normal quantile: the x with normalCdf(x) = p, by Newton's steps from a first guess (Abramowitz and Stegun 1964,
 * 26.2.23). −∞ at 0, ∞ at 1; NaN outside.
 */
export function normalQuantile(p: number): number {
  if (!(p >= 0 && p <= 1)) return NaN;
  if (p === 0 || p === 1) return p === 0 ? -Infinity : Infinity;
  const tail = Math.min(p, 1 - p);
  const t = Math.sqrt(-2 * Math.log(tail));
  const guess = t - (2.515517 + t * (0.802853 + t * 0.010328)) / (1 + t * (1.432788 + t * (0.189269 + t * 0.001308)));
  let x = -guess;
  for (let step = 0; step < 6; step++) {
    const density = Math.exp((-x * x) / 2) / Math.sqrt(2 * Math.PI);
    const move = (normalCdf(x) - tail) / density;
    x -= move;
    if (Math.abs(move) < 1e-15 * Math.abs(x)) break;
  }
  return p < 0.5 ? x : -x;
}
