/**
 * Sums over sliding windows. Windows of up to `SMALL` values are added up one by one, to the last bit alike wherever they
 * lie; longer ones run along, and are made anew so often that rounding can't build up: a bar costs the same whatever n is.
 */
export const SMALL = 64;

/** Bars between two fresh sums; a window longer than that is made anew once in its own length. */
const FRESH = 512;

/** A running sum of squares that fell to this share of what it was holds too much of the old rounding. */
const FELL = 1e-2;

/** Whether a running sum of squares has lost its digits: it fell far, or the window has moved far from its reference. */
const worn = (squares: number, sum: number, peak: number, n: number): boolean => squares < FELL * peak || sum * sum > 1e4 * n * squares;

/**
 * Calls `take` at the end of every full window of n pairs without a missing value, with the sums of products of the
 * distances from the means (xy, xx, yy), and whether all x, all y are equal. Gives what it returns.
 */
export function pairMoments(
  x: Float64Array,
  y: Float64Array,
  n: number,
  take: (xy: number, xx: number, yy: number, equalX: boolean, equalY: boolean) => number,
): Float64Array {
  const { length } = x;
  const out = new Float64Array(length).fill(NaN);
  const fresh = n <= SMALL ? 1 : Math.max(FRESH, n);
  let [run, sameX, sameY, left] = [0, 0, 0, 0];
  let [rx, ry, sx, sy, sxy, sxx, syy, peakX, peakY] = [0, 0, 0, 0, 0, 0, 0, 0, 0];
  for (let i = 0; i < length; i++) {
    if (x[i] !== x[i] || y[i] !== y[i]) {
      run = sameX = sameY = left = 0;
      continue;
    }
    run++;
    sameX = run > 1 && x[i - 1] === x[i] ? sameX + 1 : 1;
    sameY = run > 1 && y[i - 1] === y[i] ? sameY + 1 : 1;
    if (run < n) continue;
    if (left > 0) {
      left--;
      const [newX, newY, oldX, oldY] = [x[i] - rx, y[i] - ry, x[i - n] - rx, y[i - n] - ry];
      sx += newX - oldX;
      sy += newY - oldY;
      sxy += newX * newY - oldX * oldY;
      sxx += newX * newX - oldX * oldX;
      syy += newY * newY - oldY * oldY;
    }
    let xx = sxx - (sx * sx) / n;
    let yy = syy - (sy * sy) / n;
    if (left === 0 || (sameX < n && worn(xx, sx, peakX, n)) || (sameY < n && worn(yy, sy, peakY, n))) {
      left = fresh;
      rx = ry = 0;
      for (let k = i - n + 1; k <= i; k++) {
        rx += x[k];
        ry += y[k];
      }
      rx /= n;
      ry /= n;
      sx = sy = sxy = sxx = syy = 0;
      for (let k = i - n + 1; k <= i; k++) {
        const [dx, dy] = [x[k] - rx, y[k] - ry];
        sx += dx;
        sy += dy;
        sxy += dx * dy;
        sxx += dx * dx;
        syy += dy * dy;
      }
      xx = sxx - (sx * sx) / n;
      yy = syy - (sy * sy) / n;
      peakX = peakY = 0;
      if (fresh === 1) left = 0;
    }
    if (xx > peakX) peakX = xx;
    if (yy > peakY) peakY = yy;
    out[i] = take(sxy - (sx * sy) / n, xx, yy, sameX >= n, sameY >= n);
  }
  return out;
}

/**
 * Calls `take` at the end i of every full window of n values without a missing one, with their mean and the sum of
 * (k − (n − 1)/2) · x over the window's places k from 0.
 */
export function placeMoments(x: Float64Array, n: number, take: (i: number, mean: number, together: number) => void): void {
  const centre = (n - 1) / 2;
  const fresh = n <= SMALL ? 1 : Math.max(FRESH, n);
  let [run, left, reference, total, weighted] = [0, 0, 0, 0, 0];
  for (let i = 0; i < x.length; i++) {
    if (x[i] !== x[i]) {
      run = left = 0;
      continue;
    }
    run++;
    if (run < n) continue;
    if (left > 0) {
      left--;
      const [come, gone] = [x[i] - reference, x[i - n] - reference];
      weighted += (n - 1) * come - (total - gone);
      total += come - gone;
    }
    if (left === 0) {
      left = fresh - 1;
      reference = 0;
      for (let k = i - n + 1; k <= i; k++) reference += x[k];
      reference /= n;
      total = weighted = 0;
      for (let k = 0; k < n; k++) {
        const value = x[i - n + 1 + k] - reference;
        total += value;
        weighted += k * value;
      }
    }
    take(i, reference + total / n, weighted - centre * total);
  }
}
