/** Least-squares line through the last n values against their place: its slope per bar and its value at the end. */
function line(x: Float64Array, n: number): { slope: Float64Array; end: Float64Array } {
  const slope = new Float64Array(x.length).fill(NaN);
  const end = new Float64Array(x.length).fill(NaN);
  const centre = (n - 1) / 2;
  const spread = (n * (n * n - 1)) / 12;
  let run = 0;
  for (let i = 0; i < x.length; i++) {
    run = x[i] !== x[i] ? 0 : run + 1;
    if (run < n) continue;
    let total = 0;
    for (let k = 0; k < n; k++) total += x[i - n + 1 + k];
    const mean = total / n;
    let together = 0;
    for (let k = 0; k < n; k++) together += (k - centre) * (x[i - n + 1 + k] - mean);
    // one value alone lies on a level line
    const steep = n === 1 ? 0 : together / spread;
    slope[i] = steep;
    end[i] = mean + steep * centre;
  }
  return { slope, end };
}

export const linreg = (x: Float64Array, n: number): Float64Array => line(x, n).end;
export const slope = (x: Float64Array, n: number): Float64Array => line(x, n).slope;

/** Sums of products of two windows' distances from their means; null where a window's values are all equal. */
function moments(
  x: Float64Array,
  y: Float64Array,
  n: number,
  take: (xy: number, xx: number, yy: number, equalX: boolean, equalY: boolean) => number,
) {
  const out = new Float64Array(x.length).fill(NaN);
  let run = 0;
  for (let i = 0; i < x.length; i++) {
    run = x[i] !== x[i] || y[i] !== y[i] ? 0 : run + 1;
    if (run < n) continue;
    let sx = 0;
    let sy = 0;
    let equalX = true;
    let equalY = true;
    for (let k = i - n + 1; k <= i; k++) {
      sx += x[k];
      sy += y[k];
      if (x[k] !== x[i]) equalX = false;
      if (y[k] !== y[i]) equalY = false;
    }
    const [mx, my] = [sx / n, sy / n];
    let [xy, xx, yy] = [0, 0, 0];
    for (let k = i - n + 1; k <= i; k++) {
      xy += (x[k] - mx) * (y[k] - my);
      xx += (x[k] - mx) * (x[k] - mx);
      yy += (y[k] - my) * (y[k] - my);
    }
    out[i] = take(xy, xx, yy, equalX, equalY);
  }
  return out;
}

/** Pearson correlation of the last n values; missing where either window's values are all equal. */
export const rollingCorrelation = (x: Float64Array, y: Float64Array, n: number): Float64Array =>
  moments(x, y, n, (xy, xx, yy, equalX, equalY) => (equalX || equalY ? NaN : xy / Math.sqrt(xx * yy)));

/** Covariance of x and y ÷ variance of y over the last n values; missing where either window's values are all equal. */
export const beta = (x: Float64Array, y: Float64Array, n: number): Float64Array =>
  moments(x, y, n, (xy, _xx, yy, equalX, equalY) => (equalX || equalY ? NaN : xy / yy));
