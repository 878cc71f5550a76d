import { describe, expect, it } from "vitest";
import { median, METRIC_INDEX, METRIC_KEYS } from "#core/metrics";
import { LANDSCAPES, plainEvolution, searchLandscape } from "#core/testing/landscapes";
import type { Compiled } from "#core/engine";
import { placesOf, type Axis } from "../values";
import { roundsOf, type Known, type Method } from "./method";
import { sobolPoints } from "./sobol";

const axis = (name: string, count: number, steps = true): Axis => ({ name, values: Array.from({ length: count }, (_, k) => k), steps });

/** Goes through a method's rounds with a landscape in the place of backtests. */
function search(method: Method, axes: Axis[], landscape: (places: number[]) => number, allowed: Int32Array | null = null) {
  const count = axes.reduce((product, one) => product * one.values.length, 1);
  const space = { axes, count, allowed, compiled: null as unknown as Compiled };
  const rounds = roundsOf(method, { space, objective: [{ metric: "netProfit", want: "more", weight: 1 }], limits: [], mark: null });
  const known: Known & { combinations: number[]; metrics: Float64Array[] } = { combinations: [], metrics: [] };
  let turns = 0;
  for (let round = rounds.next(known); !round.done; round = rounds.next(known), turns++)
    for (const combination of round.value) {
      const metrics = new Float64Array(METRIC_KEYS.length).fill(NaN);
      metrics[METRIC_INDEX.netProfit] = landscape(placesOf(axes, combination));
      known.combinations.push(combination);
      known.metrics.push(metrics);
    }
  const fits = known.metrics.map((metrics) => metrics[METRIC_INDEX.netProfit]);
  return { combinations: known.combinations, fits, best: Math.max(...fits), turns };
}

const HILL = ([x, y]: number[]) => 100 - (x - 61) ** 2 / 10 - (y - 23) ** 2 / 10;
const axes = [axis("x", 100), axis("y", 100)];
const EVOLUTION: Method = {
  kind: "evolution",
  population: 40,
  generations: 20,
  elite: 2,
  mutation: 0.15,
  islands: 1,
  seed: 1,
  patience: 8,
};

describe("every method", () => {
  const methods: Method[] = [
    { kind: "grid" },
    { kind: "random", trials: 300, seed: 4 },
    { kind: "sobol", trials: 300 },
    EVOLUTION,
    { ...EVOLUTION, islands: 3 },
    { kind: "refine", coarse: 10 },
  ];
  it.each(methods)("takes no combination twice, none that is not allowed, and the same again: $kind", (method) => {
    const allowed = Int32Array.from(Array.from({ length: 10_000 }, (_, k) => k).filter((k) => k % 100 < Math.floor(k / 100)));
    const first = search(method, axes, HILL, allowed);
    expect(new Set(first.combinations).size).toBe(first.combinations.length);
    const known = new Set(allowed);
    expect(first.combinations.every((combination) => known.has(combination))).toBe(true);
    expect(search(method, axes, HILL, allowed).combinations).toEqual(first.combinations);
  });
});

describe("random and sobol", () => {
  it("come to the whole grid where that many are asked for", () => {
    const small = [axis("x", 7), axis("y", 5, false)];
    for (const method of [
      { kind: "random", trials: 99, seed: 2 },
      { kind: "sobol", trials: 99 },
    ] as Method[])
      expect(search(method, small, () => 1).combinations.sort((a, b) => a - b)).toEqual(Array.from({ length: 35 }, (_, k) => k));
  });

  it("other seeds are other draws, spread evenly", () => {
    const draw = (seed: number) => search({ kind: "random", trials: 1000, seed }, axes, HILL).combinations;
    expect(draw(1)).not.toEqual(draw(2));
    const quarters = [0, 0, 0, 0];
    for (const combination of draw(3)) quarters[Math.floor(combination / 2500)]++;
    for (const count of quarters) expect(Math.abs(count - 250)).toBeLessThan(60);
  });

  it("sobol points fill every sixteenth of every axis, and every square of pairs of them, equally", () => {
    const points = [];
    for (const point of sobolPoints(5)) {
      points.push(point);
      if (points.length === 255) break;
    }
    // the corner, which is left out, belongs to the first of 256
    points.push([0, 0, 0, 0, 0]);
    for (let d = 0; d < 5; d++) {
      const counts = new Array<number>(16).fill(0);
      for (const point of points) counts[Math.floor(16 * point[d])]++;
      expect(counts).toEqual(new Array<number>(16).fill(16));
    }
    const squares = new Array<number>(64).fill(0);
    for (const [x, y] of points) squares[8 * Math.floor(8 * x) + Math.floor(8 * y)]++;
    expect(squares).toEqual(new Array<number>(64).fill(4));
  });
});

describe("evolution", () => {
  it("finds the top of a hill with a fraction of the trials", () => {
    const { best, combinations } = search({ ...EVOLUTION, generations: 30 }, axes, HILL);
    expect(best).toBeGreaterThan(99);
    expect(combinations.length).toBeLessThan(1300);
  });

  it.each(Object.entries(LANDSCAPES))(
    "finds 95 % of the best of a %s landscape with 5 % of its trials, by the median of 20 seeds",
    (_, landscape) => {
      const runs = Array.from({ length: 20 }, (_, seed) => searchLandscape(plainEvolution(seed + 1), landscape));
      expect(median(runs.map(({ found }) => found))).toBeGreaterThanOrEqual(0.95);
      for (const { spent } of runs) expect(spent).toBeLessThanOrEqual(0.05);
    },
  );

  it("ends early where nothing gets better, and goes on while it does", () => {
    expect(search({ ...EVOLUTION, patience: 3 }, axes, () => 1).turns).toBeLessThanOrEqual(4);
  });

  it("searches lists and variants, too", () => {
    const lists = [axis("kind", 40, false), axis("n", 50)];
    const { best } = search({ ...EVOLUTION, generations: 30 }, lists, ([kind, n]) => (kind === 17 ? 50 : 0) - Math.abs(n - 30));
    expect(best).toBeGreaterThan(40);
  });
});

describe("refine", () => {
  it("takes a coarse grid with its last places, then all that is near its plateau", () => {
    const { combinations, turns, best } = search({ kind: "refine", coarse: 10 }, axes, HILL);
    expect(turns).toBe(2);
    // 0, 10 … 90 and 99 on both axes
    expect(combinations.slice(0, 121)).toEqual(
      Array.from({ length: 121 }, (_, k) => 100 * [0, 10, 20, 30, 40, 50, 60, 70, 80, 90, 99][Math.floor(k / 11)] + [0, 10, 20, 30, 40, 50, 60, 70, 80, 90, 99][k % 11]), // prettier-ignore
    );
    expect(best).toBe(100);
    const later = combinations.slice(121);
    expect([...later].sort((a, b) => a - b)).toEqual(later);
    expect(combinations.length).toBeLessThan(9000);
  });
});
