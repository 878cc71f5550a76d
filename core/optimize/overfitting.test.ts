import { describe, expect, it } from "vitest";
import { Random } from "#core/random";
import { BLOCKS, blockSums, halfRanks, overfitting, percentRanks } from ".";

const T = 320;
const noise = (seed: number, count: number, drift: (trial: number) => number = () => 0) => {
  const random = new Random(seed);
  return Array.from({ length: count }, (_, k) => Float64Array.from({ length: T }, () => random.normal() + drift(k)));
};
const of = (returns: readonly Float64Array[]) => overfitting(returns.map(blockSums), Math.floor(T / BLOCKS));

describe("the probability of backtest overfitting", () => {
  it("looks at every choice of half of sixteen blocks", () => {
    expect(of(noise(1, 5))!.choices.length).toBe(12_870);
  });

  it("is near a half on noise, over many draws", () => {
    const values = Array.from({ length: 24 }, (_, seed) => of(noise(seed + 1, 20))!.pbo);
    const mean = values.reduce((sum, x) => sum + x, 0) / values.length;
    expect(mean).toBeGreaterThan(0.38);
    expect(mean).toBeLessThan(0.62);
  });

  it("is near 0 where one trial is far better everywhere", () => {
    expect(of(noise(3, 20, (k) => (k === 7 ? 1 : 0)))!.pbo).toBeLessThan(0.001);
  });

  it("is by hand for two trials that take turns", () => {
    // one wins in the first half of the time, the other in the second, by as much; all sums are exact
    const a = Float64Array.from({ length: T }, (_, t) => (t < T / 2 ? 1 : -1) + (t % 2 === 0 ? 0.25 : -0.25));
    const b = a.map((_, t) => a[(t + T / 2) % T]);
    const { choices, pbo } = of([a, b])!;
    // C(8, 4)² choices take four blocks of either half, where both are alike; else the better inside is the worse outside
    expect(choices.filter(({ lambda }) => lambda === 0).length).toBe(4900);
    expect(choices.filter(({ lambda }) => Math.abs(lambda + Math.log(2)) < 1e-12).length).toBe(12_870 - 4900);
    expect(pbo).toBeCloseTo((12_870 - 4900 + 2450) / 12_870, 12);
  });

  it("counts trials with the same returns once, and has no value for one trial or too few dates", () => {
    const [a, b] = noise(5, 2);
    expect(of([a, b, a, b, a])).toEqual(of([a, b]));
    expect(of([a, a, a])).toBeNull();
    expect(blockSums(a.slice(0, 2 * BLOCKS - 1))).toBeNull();
    expect(overfitting([blockSums(a), null, blockSums(b)], 20)!.choices.every(({ best }) => best !== 1)).toBe(true);
  });

  it("takes returns that are all equal as a Sharpe ratio of 0", () => {
    const flat = new Float64Array(T);
    const bad = noise(2, 1, () => -1)[0];
    const { choices, pbo } = of([bad, flat])!;
    expect(choices.every(({ best }) => best === 1)).toBe(true);
    expect(pbo).toBe(0);
  });
});

describe("percent ranks", () => {
  it("are by hand, ties their mean", () => {
    expect([...percentRanks(Float64Array.of(3, 1, 2, 2, 9))]).toEqual([75, 0, 37.5, 37.5, 100]);
    expect([...percentRanks(Float64Array.of(5))]).toEqual([100]);
  });
});

describe("ranks in both halves of the dates", () => {
  const size = 2;
  /** Returns that swing around one mean in the first half and around another in the second. */
  const halves = (early: number, late: number) =>
    blockSums(Float64Array.from({ length: BLOCKS * size }, (_, t) => (t < (BLOCKS * size) / 2 ? early : late) + (t % 2 === 0 ? 1 : -1)));

  it("are by the Sharpe ratio of each half, as counted by hand", () => {
    const turned = halfRanks([halves(1, 3), halves(2, 2), halves(3, 1)], size);
    expect(turned.trials).toEqual([0, 1, 2]);
    expect([...turned.first]).toEqual([0, 50, 100]);
    expect([...turned.second]).toEqual([100, 50, 0]);
    expect(turned.correlation).toBeCloseTo(-1, 12);
    expect(halfRanks([halves(1, 1), halves(2, 5), halves(3, 9)], size).correlation).toBeCloseTo(1, 12);
  });

  it("leave out trials without returns, and have no correlation for too few or where all are alike", () => {
    const ranks = halfRanks([null, halves(1, 3), halves(2, 2)], size);
    expect(ranks.trials).toEqual([1, 2]);
    expect(ranks.correlation).toBeNull();
    expect(halfRanks([halves(1, 1), halves(1, 1), halves(1, 1)], size).correlation).toBeNull();
    expect(halfRanks([], size)).toMatchObject({ trials: [], correlation: null });
  });
});
