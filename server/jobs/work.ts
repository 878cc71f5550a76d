import {
  computeChunk,
  metricsRecord,
  prepareOptimization,
  type OptimizationInput,
  type PreparedOptimization,
  type TrialRow,
} from "#core/optimize";
import { auditStream } from "../audit-stream";
import { importStream } from "../importing/stream";
import { overfittingStream } from "../overfitting-stream";
import { qualityStream } from "../quality-stream";
import { updateStream } from "../update-stream";
import type { ChunkWork, StreamWork } from "./protocol";

/** A trial as its row in the database, made in the thread that computed it. */
export interface StoredTrial {
  number: number;
  values: string;
  fit: number | null;
  metrics: string;
}

const stored = (row: TrialRow): StoredTrial => ({
  number: row.number,
  values: JSON.stringify(row.values),
  fit: row.fit,
  metrics: JSON.stringify(metricsRecord(row.metrics)),
});

const optimization: ChunkWork<OptimizationInput, StoredTrial[]> = {
  kind: "optimization",
  prepare: prepareOptimization,
  compute: (prepared, input, from, to, units) =>
    computeChunk(prepared as PreparedOptimization, input.search, from, to, units as number[] | undefined).map(stored),
  stores: (prepared) => (prepared as PreparedOptimization).run.markets.map((market) => market.store),
};

/** Every kind of work that chunks can be of. */
export const WORK: ReadonlyMap<string, ChunkWork> = new Map([[optimization.kind, optimization as unknown as ChunkWork]]);

/** Every kind of work that streams. */
export const STREAMS: ReadonlyMap<string, StreamWork> = new Map(
  [importStream, updateStream, qualityStream, auditStream, overfittingStream].map((work) => [work.kind, work as unknown as StreamWork]),
);
