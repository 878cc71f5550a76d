import { availableParallelism } from "node:os";
import { MessageChannel } from "node:worker_threads";
import Piscina from "piscina";
import type { Chunk, ChunkExecutor } from "./protocol";

/** Runs chunks on the threads of this process; each thread reads its bars from the database in the data folder. */
export function poolExecutor(workerFile: string, dataFolder: string, threads = availableParallelism()): ChunkExecutor {
  let pool: Piscina | null = null;
  return {
    width: threads,
    async run(chunk: Chunk, progress, signal) {
      pool ??= new Piscina({ filename: workerFile, workerData: { dataFolder }, minThreads: 0, maxThreads: threads, idleTimeout: 20_000 });
      const { port1, port2 } = new MessageChannel();
      port1.on("message", (done: number) => progress?.(done));
      try {
        return (await pool.run({ chunk, port: port2 }, { transferList: [port2], signal: signal ?? null })) as unknown;
      } finally {
        port1.close();
      }
    },
    async close() {
      await pool?.destroy();
    },
  };
}
