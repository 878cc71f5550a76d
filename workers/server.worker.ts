import { workerData } from "node:worker_threads";
import { BarCache } from "#server/bar-store";
import { openForReading } from "#server/db/open";
import type { Chunk } from "#server/jobs/protocol";
import { WORK } from "#server/jobs/work";

// piscina hands its user's workerData on as the second of two
const { dataFolder } = (Array.isArray(workerData) ? workerData[1] : workerData) as { dataFolder: string };
const bars = new BarCache(openForReading(dataFolder));
let last: { jobId: number; prepared: unknown } | null = null;

/** Computes one chunk. What the chunks of a job share is kept until another job comes. */
export default async function work(chunk: Chunk): Promise<unknown> {
  const kind = WORK.get(chunk.kind);
  if (kind === undefined) throw new Error(`no work of kind ${chunk.kind}`);
  if (last?.jobId !== chunk.jobId) last = { jobId: chunk.jobId, prepared: kind.prepare(chunk.input, await bars.all(chunk.data)) };
  return kind.compute(last.prepared, chunk.input, chunk.from, chunk.to);
}
