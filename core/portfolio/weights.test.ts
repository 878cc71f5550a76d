import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Random } from "#core/random";
import { covariance, MODES, shrunkCovariance, weightsBy, type Bounds, type EstimatedMode } from ".";

const two = [
  [0.04, 0.006],
  [0.006, 0.01],
];
const close = (got: readonly number[], want: readonly number[]) => got.forEach((x, i) => expect(x).toBeCloseTo(want[i], 8));

/** A covariance of n series with something in common, from a seed. */
function made(seed: number, n: number): number[][] {
  const random = new Random(seed);
  const common = Float64Array.from({ length: 60 }, () => random.normal());
  return covariance(
    Array.from({ length: n }, () => {
      const [size, share] = [0.5 + random.uniform(), random.uniform() - 0.3];
      return common.map((x) => size * (share * x + random.normal()));
    }),
  );
}
const quadratic = (m: readonly (readonly number[])[], w: readonly number[]) =>
  w.reduce((sum, x, i) => sum + x * w.reduce((inner, y, j) => inner + y * m[i][j], 0), 0);

describe("weights of two members by hand", () => {
  it("by inverse volatility", () => close(weightsBy("inverseVolatility", two), [1 / 3, 2 / 3]));
  it("by risk parity, which is the same for two", () => close(weightsBy("riskParity", two), [1 / 3, 2 / 3]));
  // (b − c) ÷ (a + b − 2c)
  it("by minimum variance", () => close(weightsBy("minimumVariance", two), [0.004 / 0.038, 0.034 / 0.038]));
  it("by minimum variance within limits", () => close(weightsBy("minimumVariance", two, { least: 0.2 }), [0.2, 0.8]));
  it("by maximum diversification, which is inverse volatility for two", () =>
    close(weightsBy("maximumDiversification", two), [1 / 3, 2 / 3]));
  it("by maximum diversification within limits", () => close(weightsBy("maximumDiversification", two, { most: 0.6 }), [0.4, 0.6]));
});

describe("weights of many", () => {
  const cases = fc.tuple(fc.integer({ min: 1, max: 100_000 }), fc.integer({ min: 2, max: 9 }));

  it("contribute equally to the risk by risk parity", () => {
    fc.assert(
      fc.property(cases, ([seed, n]) => {
        const m = made(seed, n);
        const w = weightsBy("riskParity", m);
        const parts = w.map((x, i) => x * m[i].reduce((sum, c, j) => sum + c * w[j], 0));
        for (const part of parts) expect(Math.abs(part / parts[0] - 1)).toBeLessThan(1e-9);
      }),
      { numRuns: 40 },
    );
  });

  it.each<[EstimatedMode, (m: number[][], w: number[]) => number, Bounds]>([
    ["minimumVariance", (m, w) => -quadratic(m, w), {}],
    ["minimumVariance", (m, w) => -quadratic(m, w), { least: 0.03, most: 0.6 }],
    ["maximumDiversification", (m, w) => w.reduce((sum, x, i) => sum + x * Math.sqrt(m[i][i]), 0) / Math.sqrt(quadratic(m, w)), {}],
    [
      "maximumDiversification",
      (m, w) => w.reduce((sum, x, i) => sum + x * Math.sqrt(m[i][i]), 0) / Math.sqrt(quadratic(m, w)),
      { least: 0.03, most: 0.6 },
    ],
  ])("no move between two members does better: %s", (mode, goal, bounds) => {
    fc.assert(
      fc.property(cases, ([seed, n]) => {
        const m = made(seed, n);
        const w = weightsBy(mode, m, bounds);
        const { least = 0, most = 1 } = bounds;
        expect(w.reduce((sum, x) => sum + x, 0)).toBeCloseTo(1, 12);
        for (const x of w) {
          expect(x).toBeGreaterThanOrEqual(least - 1e-9);
          expect(x).toBeLessThanOrEqual(most + 1e-9);
        }
        const best = goal(m, w);
        for (let i = 0; i < n; i++)
          for (let j = 0; j < n; j++) {
            const by = Math.min(1e-4, w[i] - least, most - w[j]);
            if (i === j || by <= 0) continue;
            const moved = w.map((x, k) => (k === i ? x - by : k === j ? x + by : x));
            expect(goal(m, moved)).toBeLessThanOrEqual(best + 1e-12);
          }
      }),
      { numRuns: 40 },
    );
  });

  it("are all there is a name for", () => expect(MODES.length).toBe(6));
});

describe("a shrunk covariance", () => {
  it("keeps the variances, and draws the correlations together", () => {
    const random = new Random(4);
    const series = Array.from({ length: 4 }, () => Float64Array.from({ length: 40 }, () => random.normal()));
    const { matrix, delta } = shrunkCovariance(series);
    expect(delta).toBeGreaterThan(0);
    expect(delta).toBeLessThanOrEqual(1);
    const plain = covariance(series).map((row) => row.map((x) => (x * 39) / 40));
    matrix.forEach((row, i) => expect(row[i]).toBeCloseTo(plain[i][i], 12));
    const spread = (m: number[][]) => {
      const r = m.flatMap((row, i) => row.flatMap((x, j) => (i < j ? [x / Math.sqrt(m[i][i] * m[j][j])] : [])));
      return Math.max(...r) - Math.min(...r);
    };
    expect(spread(matrix)).toBeLessThan(spread(plain));
  });

  it("is the sample's where there is nothing to draw together", () => {
    const random = new Random(9);
    const series = [0, 1].map(() => Float64Array.from({ length: 30 }, () => random.normal()));
    // two members have one correlation, which is its own average
    const { matrix, delta } = shrunkCovariance(series);
    const plain = covariance(series);
    expect(delta === 0 || Math.abs(matrix[0][1] - (plain[0][1] * 29) / 30) < 1e-12).toBe(true);
  });
});
