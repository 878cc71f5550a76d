import type { BatchItem } from "drizzle-orm/batch";
import type { Bars } from "#core/bars";

/**
 * One chunk of a job as a plain, serializable value: it names its data by hash and carries nothing that only this process
 * has, so that any machine which can fetch bars by hash could run it.
 */
export interface Chunk {
  jobId: number;
  kind: string;
  input: unknown;
  /** hashes of the bars that the input speaks of */
  data: string[];
  chunk: number;
  from: number;
  to: number;
}

/** Who runs chunks. The pool of threads in this process is the first implementation. */
export interface ChunkExecutor {
  /** chunks that can run at the same time */
  readonly width: number;
  run(chunk: Chunk): Promise<unknown>;
  close(): Promise<void>;
}

/** The part of a kind of work that runs anywhere: a pure function of the input, the bars and the range. */
export interface ChunkWork<Input = unknown, Output = unknown> {
  kind: string;
  /** what all chunks of a job share, made once in each thread */
  prepare: (input: Input, bars: readonly Bars[]) => unknown;
  compute: (prepared: unknown, input: Input, from: number, to: number) => Output;
}

/** The part of a kind of work that stays with the database: what a finished chunk writes, in the same transaction as the chunk's own mark. */
export interface JobKind<Input = unknown, Output = unknown> {
  kind: string;
  data: (input: Input) => string[];
  commit: (jobId: number, input: Input, output: Output) => BatchItem<"sqlite">[];
}

export type JobState = "queued" | "running" | "done" | "cancelled" | "failed";

/** How a job stands, as every page shows it. */
export interface JobProgress {
  id: number;
  kind: string;
  title: string;
  state: JobState;
  total: number;
  done: number;
  /** work units per second since the last start; null before there is something to measure */
  rate: number | null;
  /** seconds left; null while unknown */
  left: number | null;
  elapsed: number;
  error: string | null;
}
