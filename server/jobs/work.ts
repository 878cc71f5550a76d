import type { Bars } from "#core/bars";
import { METRIC_KEYS } from "#core/metrics";
import {
  bestByLuck,
  computeSearch,
  gridPart,
  laySpace,
  prepareOptimization,
  type OptimizationInput,
  type Permuting,
  type PreparedOptimization,
  type Space,
  type Trial,
} from "#core/optimize";
import { auditStream } from "../audit-stream";
import { importStream } from "../importing/stream";
import { checkStream } from "../check-stream";
import { curveStream } from "../curve-stream";
import { finerStream } from "../finer-stream";
import { judgementStream } from "../judgement-stream";
import { overfittingStream } from "../overfitting-stream";
import { probeCheckStream, probeConclusionStream, probeWork } from "../probe-work";
import { qualityStream } from "../quality-stream";
import { updateStream } from "../update-stream";
import type { TrialPart } from "../trial-store";
import type { ChunkWork, StreamWork } from "./protocol";

/** Trials as the columns in which they are stored; figures that none of them has are left out. */
function partOf(trials: readonly Trial[], combinations: readonly number[], first: number): TrialPart {
  const figures: Record<string, Float64Array> = {};
  METRIC_KEYS.forEach((key, k) => {
    const column = Float64Array.from(trials, ({ metrics }) => metrics[k]);
    if (column.some((x) => !Number.isNaN(x))) figures[key] = column;
  });
  return { first, combination: Float64Array.from(combinations), figures };
}

const optimization: ChunkWork<OptimizationInput, TrialPart> = {
  kind: "optimization",
  prepare: prepareOptimization,
  compute: (given, { search }, from, to, units) => {
    const prepared = given as PreparedOptimization;
    const combinations = (units as number[] | undefined) ?? gridPart(prepared.grid, from, to);
    return partOf(computeSearch(prepared, search, combinations, from), combinations, from);
  },
  stores: (prepared) => (prepared as PreparedOptimization).runs.flatMap((run) => run.markets.map((market) => market.store)),
};

interface PermutedInput extends OptimizationInput {
  permuting: Permuting;
}

const permuted: ChunkWork<PermutedInput, (number | null)[]> = {
  kind: "permuted",
  prepare: (input, bars) => ({ space: laySpace(input.strategy, input.search).value!, bars }),
  compute: (given, input, from, to) => {
    const { space, bars } = given as { space: Space; bars: readonly Bars[] };
    return Array.from({ length: to - from }, (_, k) => bestByLuck(space, input, bars, input.permuting, from + k));
  },
};

/** Every kind of work that chunks can be of. */
export const WORK: ReadonlyMap<string, ChunkWork> = new Map(
  [optimization, permuted, probeWork].map((work) => [work.kind, work as unknown as ChunkWork]),
);

/** Every kind of work that streams. */
export const STREAMS: ReadonlyMap<string, StreamWork> = new Map(
  [
    importStream,
    updateStream,
    qualityStream,
    auditStream,
    checkStream,
    curveStream,
    finerStream,
    judgementStream,
    overfittingStream,
    probeCheckStream,
    probeConclusionStream,
  ].map((work) => [work.kind, work as unknown as StreamWork]),
);
