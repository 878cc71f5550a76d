import { BroadcastChannel, receiveMessageOnPort, workerData, type MessagePort } from "node:worker_threads";
import { BarCache } from "#server/bar-store";
import { openForReading } from "#server/db/open";
import type { Chunk } from "#server/jobs/protocol";
import { toolsOf } from "#server/jobs/tools";
import { STREAMS, WORK } from "#server/jobs/work";
import { SharedColumns, type ColumnMessage } from "./shared-columns";

// piscina hands its user's workerData on as the second of two
const { dataFolder } = (Array.isArray(workerData) ? workerData[1] : workerData) as { dataFolder: string };
const db = openForReading(dataFolder);
const bars = new BarCache(db);
const channel = new BroadcastChannel("canyon columns");
channel.unref();
const columns = new SharedColumns({
  post: (message) => channel.postMessage(message),
  receive: () => (receiveMessageOnPort(channel as unknown as MessagePort) as { message: ColumnMessage } | undefined)?.message,
});
let last: { jobId: number; prepared: unknown } | null = null;

const tools = toolsOf(db, dataFolder, bars);

/** Computes one chunk. What the chunks of a job share is kept until another job comes. */
export default async function work({ chunk, port }: { chunk: Chunk; port: MessagePort }): Promise<unknown> {
  const stream = STREAMS.get(chunk.kind);
  if (stream !== undefined)
    return stream.stream(
      chunk.input,
      tools((done) => port.postMessage(done)),
      chunk.from,
    );
  const kind = WORK.get(chunk.kind);
  if (kind === undefined) throw new Error(`no work of kind ${chunk.kind}`);
  if (last?.jobId !== chunk.jobId) {
    const opens = kind.opens?.(chunk.input) ?? false;
    const own = await (opens ? Promise.all(chunk.data.map((hash) => bars.opened(hash))) : bars.all(chunk.data));
    last = { jobId: chunk.jobId, prepared: kind.prepare(chunk.input, own) };
    columns.join(chunk.jobId, kind.stores?.(last.prepared) ?? []);
  }
  columns.take();
  return kind.compute(last.prepared, chunk.input, chunk.from, chunk.to, chunk.units);
}
