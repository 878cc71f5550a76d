import { availableParallelism } from "node:os";
import Piscina from "piscina";
import type { Chunk, ChunkExecutor } from "./protocol";

/** Runs chunks on the threads of this process; each thread reads its bars from the database in the data folder. */
export function poolExecutor(workerFile: string, dataFolder: string, threads = availableParallelism()): ChunkExecutor {
  let pool: Piscina | null = null;
  return {
    width: threads,
    run(chunk: Chunk) {
      pool ??= new Piscina({ filename: workerFile, workerData: { dataFolder }, minThreads: 0, maxThreads: threads, idleTimeout: 20_000 });
      return pool.run(chunk);
    },
    async close() {
      await pool?.destroy();
    },
  };
}
