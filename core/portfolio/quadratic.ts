/** Solves a dense system by Gaussian elimination with partial pivoting; `a` row by row, both are overwritten. */
export function solve(a: Float64Array[], b: Float64Array): Float64Array {
  const n = b.length;
  for (let k = 0; k < n; k++) {
    let pivot = k;
    for (let i = k + 1; i < n; i++) if (Math.abs(a[i][k]) > Math.abs(a[pivot][k])) pivot = i;
    [a[k], a[pivot]] = [a[pivot], a[k]];
    [b[k], b[pivot]] = [b[pivot], b[k]];
    for (let i = k + 1; i < n; i++) {
      const factor = a[i][k] / a[k][k];
      if (factor === 0) continue;
      for (let j = k; j < n; j++) a[i][j] -= factor * a[k][j];
      b[i] -= factor * b[k];
    }
  }
  for (let k = n - 1; k >= 0; k--) {
    for (let j = k + 1; j < n; j++) b[k] -= a[k][j] * b[j];
    b[k] /= a[k][k];
  }
  return b;
}

/** A convex quadratic program: least ½ x·Qx with one equation e·x = 1 and inequalities g·x ≥ h. */
export interface Quadratic {
  q: readonly (readonly number[])[];
  equation: readonly number[];
  inequalities: readonly { g: readonly number[]; h: number }[];
}

const ROUNDS = 200;
const GAP = 1e-16;

/**
 * Solves it by a primal-dual interior point method with predictor and corrector (Mehrotra 1992, as in Nocedal and Wright 2006,
 * algorithm 16.4), until the gap per inequality is below 1e-16. `start` must satisfy the equation. Q should be scaled to
 * about 1.
 */
export function minimize({ q, equation, inequalities }: Quadratic, start: readonly number[]): Float64Array {
  const n = start.length;
  const m = inequalities.length;
  const x = Float64Array.from(start);
  let y = 0;
  const dot = (a: ArrayLike<number>, b: ArrayLike<number>) => {
    let sum = 0;
    for (let i = 0; i < a.length; i++) sum += a[i] * b[i];
    return sum;
  };
  const slack = Float64Array.from(inequalities, ({ g, h }) => Math.max(1e-2, dot(g, x) - h));
  const dual = new Float64Array(m).fill(1);
  for (let round = 0; round < ROUNDS; round++) {
    const gap = dot(slack, dual) / m;
    const residual = Float64Array.from({ length: n }, (_, i) => {
      let sum = dot(q[i], x) - y * equation[i];
      for (let k = 0; k < m; k++) sum -= dual[k] * inequalities[k].g[i];
      return sum;
    });
    const off = dot(equation, x) - 1;
    const short = Float64Array.from(inequalities, ({ g, h }, k) => dot(g, x) - slack[k] - h);
    const worst = Math.max(Math.abs(off), ...residual.map(Math.abs), ...short.map(Math.abs));
    if (gap < GAP && worst < 1e-12) break;
    const step = (target: Float64Array) => {
      // eliminates slack and dual: (Q + Σ d/s · g gᵀ) dx − e dy = …
      const a = Array.from({ length: n + 1 }, () => new Float64Array(n + 1));
      const b = new Float64Array(n + 1);
      for (let i = 0; i < n; i++) {
        for (let j = 0; j < n; j++) a[i][j] = q[i][j];
        a[i][n] = -equation[i];
        a[n][i] = equation[i];
        b[i] = -residual[i];
      }
      b[n] = -off;
      for (let k = 0; k < m; k++) {
        const { g } = inequalities[k];
        const weight = dual[k] / slack[k];
        const pull = (target[k] - dual[k] * short[k]) / slack[k] - dual[k];
        for (let i = 0; i < n; i++) {
          if (g[i] === 0) continue;
          b[i] += g[i] * pull;
          for (let j = 0; j < n; j++) a[i][j] += weight * g[i] * g[j];
        }
      }
      const moved = solve(a, b);
      const dx = moved.subarray(0, n);
      const ds = Float64Array.from(inequalities, ({ g }, k) => dot(g, dx) + short[k]);
      const dd = Float64Array.from(inequalities, (_, k) => (target[k] - dual[k] * ds[k]) / slack[k] - dual[k]);
      return { dx, dy: moved[n], ds, dd };
    };
    const reach = (ds: Float64Array, dd: Float64Array, share: number) => {
      let most = 1;
      for (let k = 0; k < m; k++) {
        if (ds[k] < 0) most = Math.min(most, (-share * slack[k]) / ds[k]);
        if (dd[k] < 0) most = Math.min(most, (-share * dual[k]) / dd[k]);
      }
      return most;
    };
    const ahead = step(new Float64Array(m));
    const far = reach(ahead.ds, ahead.dd, 1);
    let after = 0;
    for (let k = 0; k < m; k++) after += (slack[k] + far * ahead.ds[k]) * (dual[k] + far * ahead.dd[k]);
    const centre = (after / m / gap) ** 3;
    const { dx, dy, ds, dd } = step(Float64Array.from(slack, (_, k) => centre * gap - ahead.ds[k] * ahead.dd[k]));
    const length = reach(ds, dd, 0.995);
    for (let i = 0; i < n; i++) x[i] += length * dx[i];
    y += length * dy;
    for (let k = 0; k < m; k++) {
      slack[k] += length * ds[k];
      dual[k] += length * dd[k];
    }
  }
  return x;
}
