import { describe, expect, it } from "vitest";
import { Random } from "#core/random";
import { correlation, drawdowns, mean, median, METRIC_KEYS, METRICS, normalCdf, percentile, probabilisticSharpe, sampleDeviation } from ".";

describe("statistics", () => {
  it("mean, deviation, median, percentile of small lists", () => {
    expect(mean([1, 2, 6])).toBe(3);
    expect(sampleDeviation([2, 4, 4, 4, 5, 5, 7, 9])).toBeCloseTo(2.13808993529939, 12);
    expect(sampleDeviation([0.1, 0.1, 0.1])).toBe(0);
    expect(sampleDeviation([1])).toBeNaN();
    expect(median([3, 1, 2])).toBe(2);
    expect(median([4, 1, 2, 3])).toBe(2.5);
    expect(percentile([1, 2, 3, 4], 50)).toBe(2.5);
    expect(percentile([10, 20], 25)).toBe(12.5);
  });

  it("correlation is 1 with itself, −1 with its mirror, missing without variance", () => {
    const x = [1, 5, 2, 8];
    expect(correlation(x, x)).toBeCloseTo(1, 14);
    expect(
      correlation(
        x,
        x.map((v) => -v),
      ),
    ).toBeCloseTo(-1, 14);
    expect(correlation(x, [2, 2, 2, 2])).toBeNaN();
  });

  it("the normal distribution, against printed tables", () => {
    for (const [x, p] of [
      [0, 0.5],
      [1, 0.841344746068543],
      [-1.959963984540054, 0.025],
      [2.5, 0.993790334674224],
      [-4, 3.16712418331199e-5],
      [-6, 9.86587645037698e-10],
    ])
      expect(Math.abs(normalCdf(x) - p) / p).toBeLessThan(1e-12);
  });

  it("the probabilistic Sharpe ratio of the paper's example", () => {
    // Bailey and López de Prado 2012: monthly Sharpe 0.458, n = 24, skew −2.448, kurtosis 10.164, against 0
    expect(probabilisticSharpe(0.458, 24, -2.448, 10.164, 0)).toBeCloseTo(0.913, 2);
  });

  it("drawdowns start at the capital, and last from the peak to the first bar above it", () => {
    const day = 86_400_000;
    const falls = drawdowns(
      Float64Array.of(90, 100, 110, 99, 105, 111, 111),
      Float64Array.from([0, 1, 2, 3, 4, 5, 6], (d) => d * day),
      100,
    );
    expect(falls.maxDrawdown).toBe(11);
    expect(falls.maxDrawdownPercent).toBe(10);
    expect(falls.longestDrawdownDays).toBe(3);
    expect(falls.timeUnderWater).toBeCloseTo(3 / 7, 14);
  });

  it("every figure explains itself", () => {
    for (const key of METRIC_KEYS) expect(METRICS[key].definition, key).toMatch(/\.$/);
  });
});

describe("random numbers", () => {
  it("are the same from the same seed and stream, others from another", () => {
    const draw = (seed: number, stream: number) =>
      Array.from(
        { length: 5 },
        (
          (random) => () =>
            random.uniform()
        )(new Random(seed, stream)),
      );
    expect(draw(1, 2)).toEqual(draw(1, 2));
    expect(draw(1, 2)).not.toEqual(draw(1, 3));
    expect(draw(1, 2)).not.toEqual(draw(2, 2));
  });

  it("have the moments they should", () => {
    const random = new Random(42);
    const n = 200_000;
    const uniform = Float64Array.from({ length: n }, () => random.uniform());
    const normal = Float64Array.from({ length: n }, () => random.normal());
    const heavy = Float64Array.from({ length: n }, () => random.heavy(5));
    expect(mean(uniform)).toBeCloseTo(0.5, 2);
    expect(Math.min(...uniform.subarray(0, 1000))).toBeGreaterThanOrEqual(0);
    expect(mean(normal)).toBeCloseTo(0, 1);
    expect(sampleDeviation(normal)).toBeCloseTo(1, 1);
    expect(sampleDeviation(heavy)).toBeCloseTo(1, 1);
    const fourth = mean(heavy.map((x) => x ** 4));
    expect(fourth).toBeGreaterThan(4);
  });
});
