import { pairMoments, placeMoments } from "./sliding";

/** Least-squares line through the last n values against their place: its slope per bar and its value at the end. */
function line(x: Float64Array, n: number): { slope: Float64Array; end: Float64Array } {
  const slope = new Float64Array(x.length).fill(NaN);
  const end = new Float64Array(x.length).fill(NaN);
  const centre = (n - 1) / 2;
  const spread = (n * (n * n - 1)) / 12;
  placeMoments(x, n, (i, mean, together) => {
    // one value alone lies on a level line
    const steep = n === 1 ? 0 : together / spread;
    slope[i] = steep;
    end[i] = mean + steep * centre;
  });
  return { slope, end };
}

export const linreg = (x: Float64Array, n: number): Float64Array => line(x, n).end;
export const slope = (x: Float64Array, n: number): Float64Array => line(x, n).slope;

/** Pearson correlation of the last n values; missing where either window's values are all equal. */
export const rollingCorrelation = (x: Float64Array, y: Float64Array, n: number): Float64Array =>
  pairMoments(x, y, n, (xy, xx, yy, equalX, equalY) => (equalX || equalY ? NaN : xy / Math.sqrt(xx * yy)));

/** Covariance of x and y ÷ variance of y over the last n values; missing where either window's values are all equal. */
export const beta = (x: Float64Array, y: Float64Array, n: number): Float64Array =>
  pairMoments(x, y, n, (xy, _xx, yy, equalX, equalY) => (equalX || equalY ? NaN : xy / yy));
