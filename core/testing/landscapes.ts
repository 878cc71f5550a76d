import type { Compiled } from "#core/engine";
import { METRIC_INDEX, METRIC_KEYS } from "#core/metrics";
import { roundsOf, type Known, type Method } from "#core/optimize";
import { placesOf, type Axis } from "#core/optimize/values";

const SIZE = 200;

/**
 * Made-up landscapes over two ranges of 200 values, in the place of backtests: places from 0 to 199 give a fit that is never
 * negative. Smooth: one hill. Ridged: a narrow ridge along a line that lies across both ranges, rising slowly towards its one
 * end. Rugged: a hill that is cut up into some hundred peaks.
 */
export const LANDSCAPES: Readonly<Record<"smooth" | "ridged" | "rugged", (x: number, y: number) => number>> = {
  smooth: (x, y) => 100 * Math.exp(-((x - 141) ** 2) / 5000 - (y - 63) ** 2 / 3000),
  ridged: (x, y) => {
    const across = y - (30 + 0.7 * x);
    return (40 + 60 * (x / (SIZE - 1))) * Math.exp(-(across ** 2) / 60);
  },
  rugged: (x, y) => {
    const hill = Math.exp(-((x - 120) ** 2) / 9000 - (y - 90) ** 2 / 9000);
    const cut = (1 + Math.cos((2 * Math.PI * (x - 120)) / 19)) * (1 + Math.cos((2 * Math.PI * (y - 90)) / 23));
    return 100 * hill * (0.5 + cut / 8);
  },
};

const axis = (name: string): Axis => ({ name, values: Array.from({ length: SIZE }, (_, k) => k), steps: true });

/** What a method finds on a landscape: its best as a share of the grid's, and its trials as a share of the grid's. */
export function searchLandscape(method: Method, landscape: (x: number, y: number) => number): { found: number; spent: number } {
  const axes = [axis("x"), axis("y")];
  const count = SIZE * SIZE;
  let top = -Infinity;
  for (let k = 0; k < count; k++) top = Math.max(top, landscape(Math.floor(k / SIZE), k % SIZE));
  const space = { axes, count, allowed: null, compiled: null as unknown as Compiled };
  const rounds = roundsOf(method, { space, objective: [{ metric: "netProfit", want: "more", weight: 1 }], limits: [], mark: null });
  const known: Known & { combinations: number[]; metrics: Float64Array[] } = { combinations: [], metrics: [] };
  let best = -Infinity;
  for (let round = rounds.next(known); !round.done; round = rounds.next(known))
    for (const combination of round.value) {
      const [x, y] = placesOf(axes, combination);
      const metrics = new Float64Array(METRIC_KEYS.length).fill(NaN);
      metrics[METRIC_INDEX.netProfit] = landscape(x, y);
      best = Math.max(best, landscape(x, y));
      known.combinations.push(combination);
      known.metrics.push(metrics);
    }
  return { found: best / top, spent: known.combinations.length / count };
}

/** Evolution as it is without any options of one's own, under a seed. */
export const plainEvolution = (seed: number): Method => ({
  kind: "evolution",
  population: 60,
  generations: 30,
  elite: 2,
  mutation: 0.15,
  islands: 1,
  seed,
  patience: 8,
});
