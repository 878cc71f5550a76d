import {
  bestOf,
  BLOCKS,
  computeCombinations,
  halfRanks,
  laySpace,
  overfitting,
  prepareRuns,
  TrialTable,
  type BlockSums,
  type OptimizationInput,
} from "#core/optimize";
import { periodEnds, periodsPerYear } from "#core/metrics";
import type { StreamWork } from "./jobs/protocol";

export interface OverfittingInput extends OptimizationInput {
  optimizationId: number;
}

export interface OverfittingOutput {
  pbo: number | null;
  /** λ of every choice of blocks, in its order */
  lambdas: number[];
  /** for every choice the number of the trial that was best in sample */
  best: number[];
  /** trials that were looked at: all, or of very many an even draw with the peak in it */
  numbers: number[];
  /** percent ranks in the first half of the time and in the second, of some of them for drawing; rank correlation of all */
  halves: { points: { number: number; x: number; y: number }[]; correlation: number | null };
  /** returns of a trial, and how many make a year */
  periods: number;
  perYear: number;
}

/** Trials between two reports. */
const STEP = 250;
/** Of more trials than this only so many are looked at, since each is set against the others in 12,870 ways. */
const MOST_LOOKED_AT = 20_000;
/** Points of the scatter of ranks. */
const MOST_POINTS = 2000;

/** Computes every trial once more for its returns by blocks, and from these the probability of overfitting. */
export const overfittingStream: StreamWork<OverfittingInput, OverfittingOutput> = {
  kind: "overfitting",
  async stream(input, { bars, trials, progress }) {
    const { search, strategy, settings } = input;
    const own = await Promise.all(settings.markets.map((market) => bars(market.bars)));
    const { axes, compiled } = laySpace(strategy, search).value!;
    const [run] = prepareRuns(compiled, input, own);
    const stored = await trials(input.optimizationId, TrialTable.needs(search));
    const table = new TrialTable(axes, search, stored.numbers, stored.combination, stored.figure);
    const rows = evenly(table.count, MOST_LOOKED_AT, bestOf(table.fit));
    const sums: (BlockSums | null)[] = [];
    for (let from = 0; from < rows.length; from += STEP) {
      const part = rows.slice(from, from + STEP).map((row) => stored.combination[row]);
      for (const trial of computeCombinations({ axes, compiled }, run, part, from, { figures: "trades", sums: true }))
        sums.push(trial.sums ?? null);
      progress(sums.length);
    }
    const periods = periodEnds(run).length;
    const size = Math.floor(periods / BLOCKS);
    const found = overfitting(sums, size);
    const numbers = rows.map((row) => stored.numbers[row]);
    const ranks = halfRanks(sums, size);
    return {
      pbo: found?.pbo ?? null,
      lambdas: found?.choices.map(({ lambda }) => lambda) ?? [],
      best: found?.choices.map(({ best }) => numbers[best]) ?? [],
      numbers,
      halves: {
        points: evenly(ranks.trials.length, MOST_POINTS, null).map((k) => ({
          number: numbers[ranks.trials[k]],
          x: ranks.first[k],
          y: ranks.second[k],
        })),
        correlation: ranks.correlation,
      },
      periods,
      perYear: periodsPerYear(run),
    };
  },
};

/** Places of at most `most` out of `count`, evenly spread, with one that must be among them. */
function evenly(count: number, most: number, must: number | null): number[] {
  if (count <= most) return Array.from({ length: count }, (_, i) => i);
  const places = new Set(Array.from({ length: most }, (_, k) => Math.floor((k * count) / most)));
  if (must !== null) places.add(must);
  return [...places].sort((a, b) => a - b);
}
