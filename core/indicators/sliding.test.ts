import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Random } from "#core/random";
import * as indicators from ".";

/** A walk with jumps, level stretches and gaps: what makes running sums go wrong. */
function series(seed: number, length: number, gaps: boolean): Float64Array {
  const random = new Random(seed);
  let x = 100;
  let level = 0;
  return Float64Array.from({ length }, () => {
    if (random.uniform() < 0.003) x += random.normal() * 1e5;
    if (random.uniform() < 0.003) level = Math.floor(random.uniform() * 260);
    if (gaps && random.uniform() < 0.001) return NaN;
    if (level-- <= 0) x += random.normal() * 0.5;
    return x;
  });
}

type Plain = (window: number[]) => number;
const mean = (w: number[]) => w.reduce((a, b) => a + b, 0) / w.length;
const sd = (w: number[]) => (w.every((x) => x === w[0]) ? 0 : Math.sqrt(mean(w.map((x) => (x - mean(w)) ** 2))));
const slope = (w: number[]) => {
  const middle = (w.length - 1) / 2;
  const m = mean(w);
  return w.reduce((sum, x, k) => sum + (k - middle) * (x - m), 0) / ((w.length * (w.length ** 2 - 1)) / 12);
};
const percentile = (w: number[], p: number) => {
  const sorted = [...w].sort((a, b) => a - b);
  const at = ((w.length - 1) * p) / 100;
  const low = Math.floor(at);
  return sorted[low] + (sorted[Math.min(low + 1, w.length - 1)] - sorted[low]) * (at - low);
};

/** Each function beside its definition, written again over one window. */
const functions: [string, (x: Float64Array, n: number) => Float64Array, Plain][] = [
  ["sma", indicators.sma, mean],
  ["wma", indicators.wma, (w) => w.reduce((sum, x, k) => sum + x * (k + 1), 0) / ((w.length * (w.length + 1)) / 2)],
  ["stdev", indicators.stdev, sd],
  ["slope", indicators.slope, slope],
  ["linreg", indicators.linreg, (w) => mean(w) + (slope(w) * (w.length - 1)) / 2],
  ["median", indicators.median, (w) => percentile(w, 50)],
  ["percentile", (x, n) => indicators.rollingPercentile(x, n, 83), (w) => percentile(w, 83)],
  ["percentRank", indicators.percentRank, (w) => (100 * w.filter((x) => x < w[w.length - 1]).length) / (w.length - 1)],
  ["highest", indicators.highest, (w) => Math.max(...w)],
  ["ageOfHighest", indicators.ageOfHighest, (w) => w.length - 1 - w.lastIndexOf(Math.max(...w))],
  ["ageOfLowest", indicators.ageOfLowest, (w) => w.length - 1 - w.lastIndexOf(Math.min(...w))],
];

describe("windows of any length", () => {
  it.each(functions)("%s is its definition over each window", (_name, compute, plain) => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.constantFrom(2, 63, 64, 65, 130, 700), fc.boolean(), (seed, n, gaps) => {
        const x = series(seed, 2000, gaps);
        const got = compute(x, n);
        for (let i = 0; i < x.length; i += 7) {
          const window = i < n - 1 ? [NaN] : [...x.subarray(i - n + 1, i + 1)];
          if (window.some(Number.isNaN)) {
            expect(got[i]).toBeNaN();
            continue;
          }
          const want = plain(window);
          const scale = Math.max(1, ...window.map(Math.abs));
          expect(Math.abs(got[i] - want), `n ${n}, bar ${i}: ${got[i]}, not ${want}`).toBeLessThanOrEqual(1e-9 * scale);
        }
      }),
      { numRuns: 12 },
    );
  });

  it("correlation and beta are theirs", () => {
    const [x, y] = [series(3, 3000, true), series(4, 3000, false)];
    for (const n of [20, 65, 400]) {
      const [r, b] = [indicators.rollingCorrelation(x, y, n), indicators.beta(x, y, n)];
      for (let i = n - 1; i < x.length; i += 11) {
        const [u, v] = [[...x.subarray(i - n + 1, i + 1)], [...y.subarray(i - n + 1, i + 1)]];
        if (u.some(Number.isNaN) || sd(u) === 0 || sd(v) === 0) {
          expect(r[i]).toBeNaN();
          continue;
        }
        const together = mean(u.map((a, k) => (a - mean(u)) * (v[k] - mean(v))));
        expect(r[i]).toBeCloseTo(together / sd(u) / sd(v), 7);
        expect(Math.abs(b[i] - together / sd(v) ** 2)).toBeLessThanOrEqual(1e-7 * Math.max(1, Math.abs(b[i])));
      }
    }
  });

  it("say exactly 0 where nothing moved, however wild it was before", () => {
    const x = Float64Array.from({ length: 1500 }, (_, i) => (i < 400 ? Math.sin(i) * 1e7 : 3.1));
    for (const n of [50, 200]) {
      expect(
        indicators
          .stdev(x, n)
          .subarray(400 + n)
          .every((value) => value === 0),
      ).toBe(true);
      expect(
        indicators
          .efficiency(x, n)
          .subarray(401 + n)
          .every((value) => value === 0),
      ).toBe(true);
    }
  });
});
