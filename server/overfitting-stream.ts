import {
  BLOCKS,
  computeCombinations,
  laySpace,
  overfitting,
  prepareOptimization,
  type BlockSums,
  type OptimizationInput,
} from "#core/optimize";
import { periodEnds } from "#core/metrics";
import type { StreamWork } from "./jobs/protocol";

/** What is asked: the optimization, and which combinations its trials were. */
export interface OverfittingInput extends OptimizationInput {
  combinations: number[];
}

export interface OverfittingOutput {
  pbo: number | null;
  /** λ of every choice of blocks, in its order */
  lambdas: number[];
  /** for every choice the number of the trial that was best in sample */
  best: number[];
}

/** Trials between two reports. */
const STEP = 250;

/** Computes every trial once more for its returns by blocks, and from these the probability of overfitting. */
export const overfittingStream: StreamWork<OverfittingInput, OverfittingOutput> = {
  kind: "overfitting",
  async stream(input, { bars, progress }) {
    const own = await Promise.all(input.settings.markets.map((market) => bars(market.bars)));
    const { run } = prepareOptimization(input, own);
    const { axes, compiled } = laySpace(input.strategy, input.search).value!;
    const sums: (BlockSums | null)[] = [];
    for (let from = 0; from < input.combinations.length; from += STEP) {
      const part = input.combinations.slice(from, from + STEP);
      for (const trial of computeCombinations({ axes, compiled }, run, part, from, { figures: "trades", sums: true }))
        sums.push(trial.sums ?? null);
      progress(sums.length);
    }
    const found = overfitting(sums, Math.floor(periodEnds(run).length / BLOCKS));
    return {
      pbo: found?.pbo ?? null,
      lambdas: found?.choices.map(({ lambda }) => lambda) ?? [],
      best: found?.choices.map(({ best }) => best) ?? [],
    };
  },
};
