import { asc, eq, inArray } from "drizzle-orm";
import type { Logger } from "pino";
import type { Database } from "../db/open";
import { jobChunks, jobs } from "../db/schema";
import type { ChunkExecutor, JobKind, JobProgress, JobState } from "./protocol";

interface Active {
  id: number;
  startedAt: number;
  doneAtStart: number;
  done: number;
  elapsedBefore: number;
  cancelled: boolean;
  /** committing order matters to nobody, but one batch at a time keeps the writer free */
  ending: Promise<void>;
}

/**
 * Runs jobs one after the other, each with all threads. What is finished is in the database, chunk by chunk: after a
 * crash, however sudden, `start` goes on from there.
 */
export class JobRunner {
  private active: Active | null = null;
  private closing = false;
  private wake: (() => void) | null = null;
  private loop: Promise<void> | null = null;

  constructor(
    private readonly db: Database,
    private readonly executor: ChunkExecutor,
    private readonly kinds: ReadonlyMap<string, JobKind>,
    private readonly log: Logger,
  ) {}

  /** Begins to work; jobs that a stopped server left behind go on. */
  async start(): Promise<void> {
    await this.db.update(jobs).set({ state: "queued" }).where(eq(jobs.state, "running"));
    this.loop = this.work();
  }

  /** Tells the runner that a job was queued. */
  nudge(): void {
    this.wake?.();
  }

  /** The statement that queues a job under an id. */
  queue(job: { id: number; kind: string; title: string; input: unknown; total: number; chunkSize: number }) {
    return this.db.insert(jobs).values({
      ...job,
      input: JSON.stringify(job.input),
      state: "queued",
      done: 0,
      elapsed: 0,
      createdAt: Date.now(),
    });
  }

  /** Stops a job; what is finished stays. A job that has ended already stays as it is. */
  async cancel(id: number): Promise<void> {
    const [job] = await this.db.select({ state: jobs.state }).from(jobs).where(eq(jobs.id, id));
    if (job === undefined || !["queued", "running"].includes(job.state)) return;
    if (this.active?.id === id) {
      this.active.cancelled = true;
      await this.active.ending;
    }
    await this.db.update(jobs).set({ state: "cancelled", finishedAt: Date.now() }).where(eq(jobs.id, id));
    this.nudge();
  }

  /** How jobs stand: those that are not over, and those asked for. */
  async progress(ids: readonly number[] = []): Promise<JobProgress[]> {
    const rows = await this.db
      .select()
      .from(jobs)
      .where(ids.length > 0 ? inArray(jobs.id, [...ids]) : inArray(jobs.state, ["queued", "running"]))
      .orderBy(asc(jobs.id));
    return rows.map((row) => this.view(row));
  }

  private view(row: typeof jobs.$inferSelect): JobProgress {
    const active = this.active?.id === row.id ? this.active : null;
    const seconds = active === null ? 0 : (Date.now() - active.startedAt) / 1000;
    const rate = active !== null && active.done > active.doneAtStart && seconds > 0 ? (active.done - active.doneAtStart) / seconds : null;
    return {
      id: row.id,
      kind: row.kind,
      title: row.title,
      state: row.state as JobState,
      total: row.total,
      done: row.done,
      rate,
      left: rate === null ? null : (row.total - row.done) / rate,
      elapsed: (active === null ? row.elapsed : active.elapsedBefore + seconds * 1000) / 1000,
      error: row.error,
    };
  }

  /** Stops without losing anything: chunks at work are left, to be computed again at the next start. */
  async close(): Promise<void> {
    this.closing = true;
    this.nudge();
    await this.executor.close();
    await this.loop;
  }

  private async work(): Promise<void> {
    while (!this.closing) {
      const [next] = await this.db.select().from(jobs).where(eq(jobs.state, "queued")).orderBy(asc(jobs.id)).limit(1);
      if (next === undefined) {
        await new Promise<void>((resolve) => {
          this.wake = resolve;
          setTimeout(resolve, 1000).unref();
        });
        this.wake = null;
        continue;
      }
      try {
        await this.runJob(next);
      } catch (error) {
        if (this.closing) return;
        this.log.error({ error, job: next.id }, "a job failed");
        await this.db
          .update(jobs)
          .set({ state: "failed", error: error instanceof Error ? error.message : String(error), finishedAt: Date.now() })
          .where(eq(jobs.id, next.id));
      } finally {
        this.active = null;
      }
    }
  }

  private async runJob(job: typeof jobs.$inferSelect): Promise<void> {
    const kind = this.kinds.get(job.kind);
    if (kind === undefined) throw new Error(`no job of kind ${job.kind}`);
    await this.db.update(jobs).set({ state: "running" }).where(eq(jobs.id, job.id));
    const input = JSON.parse(job.input) as unknown;
    const data = kind.data(input);
    const finished = new Set(
      (await this.db.select({ chunk: jobChunks.chunk }).from(jobChunks).where(eq(jobChunks.jobId, job.id))).map((row) => row.chunk),
    );
    const chunks = Math.ceil(job.total / job.chunkSize);
    const waiting: number[] = [];
    for (let chunk = 0; chunk < chunks; chunk++) if (!finished.has(chunk)) waiting.push(chunk);
    let release = () => {};
    const active: Active = {
      id: job.id,
      startedAt: Date.now(),
      doneAtStart: job.done,
      done: job.done,
      elapsedBefore: job.elapsed,
      cancelled: false,
      ending: new Promise<void>((resolve) => (release = resolve)),
    };
    this.active = active;
    let committing: Promise<unknown> = Promise.resolve();
    const lane = async (): Promise<void> => {
      for (let chunk = waiting.shift(); chunk !== undefined && !active.cancelled && !this.closing; chunk = waiting.shift()) {
        const from = chunk * job.chunkSize;
        const to = Math.min(job.total, from + job.chunkSize);
        const output = await this.executor.run({ jobId: job.id, kind: job.kind, input, data, chunk, from, to });
        if (active.cancelled) return;
        const at = chunk;
        const commit = committing.then(async () => {
          active.done += to - from;
          await this.db.batch([
            this.db.insert(jobChunks).values({ jobId: job.id, chunk: at, finishedAt: Date.now() }),
            this.db
              .update(jobs)
              .set({ done: active.done, elapsed: active.elapsedBefore + Date.now() - active.startedAt })
              .where(eq(jobs.id, job.id)),
            ...kind.commit(job.id, input, output),
          ]);
        });
        // a lane goes on computing while its last chunk is written; a failed write ends the job
        committing = commit;
        await commit;
      }
    };
    try {
      await Promise.all(Array.from({ length: this.executor.width * 2 }, lane));
      await committing;
    } finally {
      release();
    }
    if (active.cancelled || this.closing) return;
    await this.db
      .update(jobs)
      .set({ state: "done", finishedAt: Date.now(), elapsed: active.elapsedBefore + Date.now() - active.startedAt })
      .where(eq(jobs.id, job.id));
  }
}
