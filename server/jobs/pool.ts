import { availableParallelism } from "node:os";
import { MessageChannel } from "node:worker_threads";
import Piscina, { queueOptionsSymbol, type TaskQueue } from "piscina";
import type { Chunk, ChunkExecutor } from "./protocol";

type Task = Parameters<TaskQueue["push"]>[0];

const isLook = (task: Task): boolean => (task as unknown as Record<symbol, { look: boolean } | null>)[queueOptionsSymbol]?.look === true;

/** Tasks in their order, but what somebody waits for before what belongs to a job. */
class LooksFirst implements TaskQueue {
  private readonly tasks: Task[] = [];
  get size(): number {
    return this.tasks.length;
  }
  push(task: Task): void {
    const place = isLook(task) ? this.tasks.findIndex((one) => !isLook(one)) : -1;
    if (place < 0) this.tasks.push(task);
    else this.tasks.splice(place, 0, task);
  }
  shift(): Task | null {
    return this.tasks.shift() ?? null;
  }
  remove(task: Task): void {
    const place = this.tasks.indexOf(task);
    if (place >= 0) this.tasks.splice(place, 1);
  }
}

/** Runs chunks on the threads of this process; each thread reads its bars from the database in the data folder. */
export function poolExecutor(workerFile: string, dataFolder: string, threads = availableParallelism()): ChunkExecutor {
  let pool: Piscina | null = null;
  return {
    width: threads,
    async run(chunk: Chunk, progress, signal) {
      pool ??= new Piscina({
        filename: workerFile,
        workerData: { dataFolder },
        minThreads: 0,
        maxThreads: threads,
        idleTimeout: 20_000,
        taskQueue: new LooksFirst(),
      });
      const { port1, port2 } = new MessageChannel();
      port1.on("message", (done: number) => progress?.(done));
      try {
        return (await pool.run(
          { chunk, port: port2, [queueOptionsSymbol]: { look: chunk.jobId === 0 } },
          { transferList: [port2], signal: signal ?? null },
        )) as unknown;
      } finally {
        port1.close();
      }
    },
    async close() {
      await pool?.destroy();
    },
  };
}
