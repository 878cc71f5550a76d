import { minimize } from "./quadratic";

export const MODES = ["given", "equal", "inverseVolatility", "riskParity", "minimumVariance", "maximumDiversification"] as const;
export type WeightMode = (typeof MODES)[number];
/** Modes whose weights rest on the members' own runs. */
export type EstimatedMode = Exclude<WeightMode, "given" | "equal">;

export interface Bounds {
  least?: number;
  most?: number;
}

/** Weights ≥ 0 that add up to 1, by a mode and the members' covariance. `bounds` count for the last two modes only. */
export function weightsBy(mode: EstimatedMode, covariance: readonly (readonly number[])[], bounds: Bounds = {}): number[] {
  const deviations = covariance.map((row, i) => Math.sqrt(row[i]));
  switch (mode) {
    case "inverseVolatility":
      return normalized(deviations.map((sd) => 1 / sd));
    case "riskParity":
      return riskParity(covariance, deviations);
    case "minimumVariance":
      return minimumVariance(covariance, bounds);
    case "maximumDiversification":
      return maximumDiversification(covariance, deviations, bounds);
  }
}

const normalized = (x: readonly number[]): number[] => {
  const total = x.reduce((sum, value) => sum + value, 0);
  return x.map((value) => value / total);
};

/**
 * Equal contributions wᵢ(Σw)ᵢ: the minimum of ½ w·Σw − Σ ln wᵢ, one coordinate after the other (Griveau-Billion, Richard and
 * Roncalli 2013), on the correlation so that the members' scales play no part.
 */
function riskParity(covariance: readonly (readonly number[])[], deviations: readonly number[]): number[] {
  const n = deviations.length;
  const correlation = covariance.map((row, i) => row.map((x, j) => x / deviations[i] / deviations[j]));
  const x = new Float64Array(n).fill(1 / Math.sqrt(n));
  for (let round = 0; round < 100_000; round++) {
    let moved = 0;
    for (let i = 0; i < n; i++) {
      let rest = 0;
      for (let j = 0; j < n; j++) if (j !== i) rest += correlation[i][j] * x[j];
      const next = (-rest + Math.sqrt(rest * rest + 4)) / 2;
      moved = Math.max(moved, Math.abs(next - x[i]) / next);
      x[i] = next;
    }
    if (moved < 1e-15) break;
  }
  return normalized(Array.from(x, (value, i) => value / deviations[i]));
}

/** Covariance scaled so that its mean variance is 1: the programs stop by absolute gaps. */
function scaled(covariance: readonly (readonly number[])[]): { q: number[][]; scale: number } {
  const scale = covariance.reduce((sum, row, i) => sum + row[i], 0) / covariance.length;
  return { q: covariance.map((row) => row.map((x) => x / scale)), scale };
}

const unit = (n: number, i: number, value = 1): number[] => Array.from({ length: n }, (_, j) => (j === i ? value : 0));

function minimumVariance(covariance: readonly (readonly number[])[], { least = 0, most = 1 }: Bounds): number[] {
  const n = covariance.length;
  const { q } = scaled(covariance);
  const inequalities = Array.from({ length: n }, (_, i) => [
    { g: unit(n, i), h: Math.max(0, least) },
    ...(most < 1 ? [{ g: unit(n, i, -1), h: -most }] : []),
  ]).flat();
  return tidy(minimize({ q, equation: new Array<number>(n).fill(1), inequalities }, new Array<number>(n).fill(1 / n)));
}

/**
 * Most of w·sd ÷ √(w·Σw). Freed of scale, y = w ÷ (w·sd): the least y·Σy with sd·y = 1, and the bounds on w as bounds on
 * y's shares of its own sum.
 */
function maximumDiversification(
  covariance: readonly (readonly number[])[],
  deviations: readonly number[],
  { least = 0, most = 1 }: Bounds,
): number[] {
  const n = covariance.length;
  const { q, scale } = scaled(covariance);
  const sd = deviations.map((x) => x / Math.sqrt(scale));
  const inequalities = Array.from({ length: n }, (_, i) => [
    { g: unit(n, i).map((x) => x - Math.max(0, least)), h: 0 },
    ...(most < 1 ? [{ g: unit(n, i, -1).map((x) => x + most), h: 0 }] : []),
  ]).flat();
  const start = 1 / sd.reduce((sum, x) => sum + x, 0);
  return tidy(minimize({ q, equation: sd, inequalities }, new Array<number>(n).fill(start)));
}

/** What the program leaves just beside 0 is 0; together 1. */
const tidy = (x: Float64Array): number[] => {
  const total = x.reduce((sum, value) => sum + value, 0);
  return normalized(Array.from(x, (value) => (value / total < 1e-11 ? 0 : value)));
};
