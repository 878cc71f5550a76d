import type { BatchItem } from "drizzle-orm/batch";
import type { Bars } from "#core/bars";
import type { ColumnStore } from "#core/rules";
import type { StoredColumns } from "../trial-store";

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
  /** what its units are, where the job's kind says so round by round */
  units?: unknown;
}

/** Units of a job that come after those of earlier rounds; `total` is how many there may be in all, as far as is known. */
export interface Round {
  from: number;
  to: number;
  total: number;
}

/** A job whose later units rest on what the earlier ones gave. */
export interface Rounds {
  /** The next round; called when every unit of the one before is written. Null: there are no more. */
  next(): Promise<Round | null>;
  /** What some units of the round at hand are, as a plain value. */
  units(from: number, to: number): unknown;
}

/** Who runs chunks. The pool of threads in this process is the first implementation. */
export interface ChunkExecutor {
  /** chunks that can run at the same time */
  readonly width: number;
  /** Runs one chunk. `progress` hears how many units of it are done; an aborted `signal` stops it. */
  run(chunk: Chunk, progress?: (done: number) => void, signal?: AbortSignal): Promise<unknown>;
  close(): Promise<void>;
}

/** What a chunk that reads files may use. */
export interface ChunkTools {
  /** the data folder */
  folder: string;
  bars: (hash: string) => Promise<Bars>;
  /** the same for what looks after the data, which sees behind seals */
  openedBars: (hash: string) => Promise<Bars>;
  /** hash of a source's raw bars as they are now */
  rawHash: (sourceId: number) => Promise<string>;
  /** which parts of bars are in the database already */
  knownParts: (hashes: string[]) => Promise<Set<string>>;
  /** the columns of an optimization's trials, with some figures */
  trials: (optimizationId: number, metrics: readonly string[]) => Promise<StoredColumns>;
  /** all figures of one trial */
  trial: (optimizationId: number, number: number) => Promise<Float64Array>;
  progress: (done: number) => void;
}

/** Work that streams through a file or a connection and reports as it goes; a chunk of it is done again after a crash. */
export interface StreamWork<Input = unknown, Output = unknown> {
  kind: string;
  /** does the chunk that begins with a unit */
  stream: (input: Input, tools: ChunkTools, unit: number) => Promise<Output>;
}

/** The part of a kind of work that runs anywhere: a pure function of the input, the bars and the range. */
export interface ChunkWork<Input = unknown, Output = unknown> {
  kind: string;
  /** what all chunks of a job share, made once in each thread */
  prepare: (input: Input, bars: readonly Bars[]) => unknown;
  compute: (prepared: unknown, input: Input, from: number, to: number, units?: unknown) => Output;
  /** whether its bars may reach behind a seal, since it opens one */
  opens?: (input: Input) => boolean;
  /** the columns of what was prepared, market by market, which the threads of a job share */
  stores?: (prepared: unknown) => readonly ColumnStore[];
}

/** The part of a kind of work that stays with the database: what a finished chunk writes, in the same transaction as the chunk's own mark. */
export interface JobKind<Input = unknown, Output = unknown> {
  kind: string;
  /** jobs of one lane run one after the other, lanes beside each other: a file need not wait for a long optimization */
  lane: "compute" | "data";
  data: (input: Input) => string[];
  commit: (jobId: number, input: Input, output: Output, chunk: number) => BatchItem<"sqlite">[] | Promise<BatchItem<"sqlite">[]>;
  /** for jobs whose units are not known from the start; null: this one's are. The same rounds come again after a crash */
  rounds?: (jobId: number, input: Input) => Rounds | null;
  /** what is written together with the end of the job */
  finish?: (jobId: number, input: Input) => Promise<BatchItem<"sqlite">[]>;
  /** what follows once a chunk is written; a crash may come before it, so that it must be found again at the next start */
  after?: (jobId: number, input: Input, output: Output) => Promise<void>;
  /** what a job that failed or was cancelled leaves behind */
  abandon?: (jobId: number) => BatchItem<"sqlite">[];
}

/** `paused`: stopped by somebody, with what is finished, until it is resumed. */
export type JobState = "queued" | "running" | "paused" | "done" | "cancelled" | "failed";

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
  /** jobs of a higher one go first */
  priority: number;
  /** threads that it may use at the same time; null: all */
  threads: number | null;
}
