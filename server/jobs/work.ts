import { computeChunk, prepareOptimization, type OptimizationInput, type PreparedOptimization, type TrialRow } from "#core/optimize";
import type { ChunkWork } from "./protocol";

const optimization: ChunkWork<OptimizationInput, TrialRow[]> = {
  kind: "optimization",
  prepare: prepareOptimization,
  compute: (prepared, input, from, to) => computeChunk(prepared as PreparedOptimization, input.search, from, to),
};

/** Every kind of work that chunks can be of. */
export const WORK: ReadonlyMap<string, ChunkWork> = new Map([[optimization.kind, optimization as unknown as ChunkWork]]);
