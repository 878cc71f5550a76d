import { and, asc, desc, eq, gt, inArray } from "drizzle-orm";
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
  /** why no further chunk is begun; null while they are. `yielded`: to a job of a higher priority */
  stopped: "cancelled" | "paused" | "yielded" | null;
  priority: number;
  threads: number | null;
  kinds: readonly string[];
  /** begins chunks as far as threads are free */
  pump: () => void;
  /** units done within chunks that are not finished */
  partial: Map<number, number>;
  stop: AbortController;
  /** committing order matters to nobody, but one batch at a time keeps the writer free */
  ending: Promise<void>;
}

const LANES = ["compute", "data"] as const;
/** States of jobs that are not over. */
const OPEN: readonly string[] = ["queued", "running", "paused"];

/**
 * Runs jobs, in each lane one after the other, with all threads. What is finished is in the database, chunk by chunk: after a
 * crash, however sudden, `start` goes on from there.
 */
export class JobRunner {
  private readonly active = new Map<number, Active>();
  private closing = false;
  private readonly wakes = new Set<() => void>();
  private loops: Promise<unknown> | null = null;
  private readonly ears: ((id: number) => void)[] = [];

  constructor(
    private readonly db: Database,
    private readonly executor: ChunkExecutor,
    private readonly kinds: ReadonlyMap<string, JobKind>,
    private readonly log: Logger,
  ) {}

  /** Hears of every job that is over, however it ended; after a sudden end of the server nobody is told. */
  onEnd(heard: (id: number) => void): void {
    this.ears.push(heard);
  }

  private tell(id: number): void {
    for (const heard of this.ears) heard(id);
  }

  /** Begins to work; jobs that a stopped server left behind go on. */
  async start(): Promise<void> {
    await this.db.update(jobs).set({ state: "queued" }).where(eq(jobs.state, "running"));
    this.loops = Promise.all(LANES.map((lane) => this.work([...this.kinds.values()].filter((kind) => kind.lane === lane))));
  }

  /** Tells the runner that a job was queued. */
  nudge(): void {
    for (const wake of this.wakes) wake();
    for (const active of this.active.values())
      void this.giveWay(active).catch((error: unknown) => this.log.error({ error }, "a job's place in the queue could not be looked up"));
  }

  /** Stops a job after its chunks at work where one of a higher priority waits in its lane; it goes on afterwards. */
  private async giveWay(active: Active): Promise<void> {
    const [higher] = await this.db
      .select({ id: jobs.id })
      .from(jobs)
      .where(and(eq(jobs.state, "queued"), inArray(jobs.kind, [...active.kinds]), gt(jobs.priority, active.priority)))
      .limit(1);
    if (higher !== undefined && active.stopped === null) {
      active.stopped = "yielded";
      active.pump();
    }
  }

  /** Lets a job use so many threads at the same time from now on; null: all. */
  async setThreads(id: number, threads: number | null): Promise<void> {
    const most = threads === null ? null : Math.max(1, Math.min(this.executor.width, Math.round(threads)));
    await this.db.update(jobs).set({ threads: most }).where(eq(jobs.id, id));
    const active = this.active.get(id);
    if (active === undefined) return;
    active.threads = most;
    active.pump();
  }

  /** Threads that there are. */
  get width(): number {
    return this.executor.width;
  }

  /** Jobs of a higher priority go first; one at work stops for them, and goes on afterwards. */
  async setPriority(id: number, priority: number): Promise<void> {
    await this.db.update(jobs).set({ priority }).where(eq(jobs.id, id));
    const active = this.active.get(id);
    if (active !== undefined) active.priority = priority;
    this.nudge();
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
    if (job === undefined || !OPEN.includes(job.state)) return;
    const active = this.active.get(id);
    if (active !== undefined) {
      active.stopped = "cancelled";
      active.stop.abort();
      active.pump();
      await active.ending;
    }
    await this.end(id, "cancelled", null);
    this.nudge();
  }

  /** Begins no further chunk of a job, until it is resumed; those at work are finished first. */
  async pause(id: number): Promise<void> {
    const active = this.active.get(id);
    if (active !== undefined && active.stopped === null) {
      active.stopped = "paused";
      active.pump();
      await active.ending;
    }
    await this.db
      .update(jobs)
      .set({ state: "paused" })
      .where(and(eq(jobs.id, id), inArray(jobs.state, ["queued", "running"])));
    this.nudge();
  }

  /** Lets a paused job go on, after those that were queued before it. */
  async resume(id: number): Promise<void> {
    await this.db
      .update(jobs)
      .set({ state: "queued" })
      .where(and(eq(jobs.id, id), eq(jobs.state, "paused")));
    this.nudge();
  }

  private async end(id: number, state: "cancelled" | "failed", error: string | null): Promise<void> {
    const [job] = await this.db.select({ kind: jobs.kind }).from(jobs).where(eq(jobs.id, id));
    await this.db.batch([
      this.db.update(jobs).set({ state, error, finishedAt: Date.now() }).where(eq(jobs.id, id)),
      ...(this.kinds.get(job.kind)?.abandon?.(id) ?? []),
    ]);
    this.tell(id);
  }

  /** How jobs stand: those that are not over, and those asked for. */
  async progress(ids: readonly number[] = []): Promise<JobProgress[]> {
    const rows = await this.db
      .select()
      .from(jobs)
      .where(ids.length > 0 ? inArray(jobs.id, [...ids]) : inArray(jobs.state, [...OPEN]))
      .orderBy(asc(jobs.id));
    return rows.map((row) => this.view(row));
  }

  private view(row: typeof jobs.$inferSelect): JobProgress {
    const active = this.active.get(row.id) ?? null;
    const seconds = active === null ? 0 : (Date.now() - active.startedAt) / 1000;
    let done = row.done;
    for (const part of active?.partial.values() ?? []) done += part;
    done = Math.min(done, row.total);
    const rate = active !== null && done > active.doneAtStart && seconds > 0 ? (done - active.doneAtStart) / seconds : null;
    return {
      id: row.id,
      kind: row.kind,
      title: row.title,
      state: row.state as JobState,
      total: row.total,
      done,
      rate,
      left: rate === null ? null : (row.total - done) / rate,
      elapsed: (active === null ? row.elapsed : active.elapsedBefore + seconds * 1000) / 1000,
      error: row.error,
      priority: row.priority,
      threads: row.threads,
    };
  }

  /** Stops without losing anything: chunks at work are left, to be computed again at the next start. */
  async close(): Promise<void> {
    this.closing = true;
    this.nudge();
    await this.executor.close();
    await this.loops;
  }

  private async work(own: readonly JobKind[]): Promise<void> {
    const names = own.map((kind) => kind.kind);
    while (!this.closing && names.length > 0) {
      const [next] = await this.db
        .select()
        .from(jobs)
        .where(and(eq(jobs.state, "queued"), inArray(jobs.kind, names)))
        .orderBy(desc(jobs.priority), asc(jobs.id))
        .limit(1);
      if (next === undefined) {
        let wake = () => {};
        await new Promise<void>((resolve) => {
          this.wakes.add((wake = resolve));
          setTimeout(resolve, 1000).unref();
        });
        this.wakes.delete(wake);
        continue;
      }
      try {
        await this.runJob(next, names);
      } catch (error) {
        if (this.closing) return;
        this.log.error({ error, job: next.id }, "a job failed");
        await this.end(next.id, "failed", error instanceof Error ? error.message : String(error));
      } finally {
        this.active.delete(next.id);
      }
    }
  }

  private async runJob(job: typeof jobs.$inferSelect, kinds: readonly string[]): Promise<void> {
    const kind = this.kinds.get(job.kind);
    if (kind === undefined) throw new Error(`no job of kind ${job.kind}`);
    await this.db.update(jobs).set({ state: "running" }).where(eq(jobs.id, job.id));
    const input = JSON.parse(job.input) as unknown;
    const data = kind.data(input);
    const finished = new Set(
      (await this.db.select({ chunk: jobChunks.chunk }).from(jobChunks).where(eq(jobChunks.jobId, job.id))).map((row) => row.chunk),
    );
    const rounds = kind.rounds?.(job.id, input) ?? null;
    let release = () => {};
    const active: Active = {
      id: job.id,
      startedAt: Date.now(),
      doneAtStart: job.done,
      done: job.done,
      elapsedBefore: job.elapsed,
      stopped: null,
      priority: job.priority,
      threads: job.threads,
      kinds,
      pump: () => {},
      partial: new Map(),
      stop: new AbortController(),
      ending: new Promise<void>((resolve) => (release = resolve)),
    };
    this.active.set(job.id, active);
    let committing: Promise<unknown> = Promise.resolve();
    const one = async ({ chunk: at, from, to }: Span): Promise<void> => {
      const heard = (done: number) => void active.partial.set(at, Math.min(done, to - from));
      let output: unknown;
      try {
        const units = rounds?.units(from, to);
        output = await this.executor.run(
          { jobId: job.id, kind: job.kind, input, data, chunk: at, from, to, units },
          heard,
          active.stop.signal,
        );
      } catch (error) {
        if (active.stopped === "cancelled") return;
        throw error;
      }
      if (active.stopped === "cancelled") return;
      const commit = committing.then(async () => {
        active.partial.delete(at);
        active.done += to - from;
        const more = await kind.commit(job.id, input, output, at);
        await this.db.batch([
          this.db.insert(jobChunks).values({ jobId: job.id, chunk: at, finishedAt: Date.now() }),
          this.db
            .update(jobs)
            .set({ done: active.done, elapsed: active.elapsedBefore + Date.now() - active.startedAt })
            .where(eq(jobs.id, job.id)),
          ...more,
        ]);
        await kind.after?.(job.id, input, output);
      });
      committing = commit;
      await commit;
    };
    const go = (from: number, to: number): Promise<void> => {
      const waiting = spansOf(from, to, job.chunkSize, rounds !== null).filter((span) => !finished.has(span.chunk));
      let [next, running, failed] = [0, 0, false];
      return new Promise((resolve, reject) => {
        active.pump = () => {
          const on = () => next < waiting.length && active.stopped === null && !this.closing && !failed;
          // with all threads two chunks a thread are under way, so that none waits while one is written
          const most = active.threads ?? this.executor.width * 2;
          while (running < most && on()) {
            running++;
            one(waiting[next++]).then(
              () => {
                running--;
                active.pump();
              },
              (error: unknown) => {
                failed = true;
                reject(error instanceof Error ? error : new Error(String(error)));
              },
            );
          }
          if (running === 0 && !on()) resolve();
        };
        active.pump();
      });
    };
    try {
      if (rounds === null) await go(0, job.total);
      else
        for (let round = await rounds.next(); round !== null && active.stopped === null && !this.closing; round = await rounds.next()) {
          if (round.total !== job.total) await this.db.update(jobs).set({ total: round.total }).where(eq(jobs.id, job.id));
          await go(round.from, round.to);
          // what is left of a round that was stopped belongs to the next start
          if (active.stopped !== null || this.closing) break;
        }
    } finally {
      release();
    }
    if (active.stopped === "yielded")
      await this.db
        .update(jobs)
        .set({ state: "queued" })
        .where(and(eq(jobs.id, job.id), eq(jobs.state, "running")));
    if (active.stopped !== null || this.closing) return;
    const elapsed = active.elapsedBefore + Date.now() - active.startedAt;
    await this.db.batch([
      this.db
        .update(jobs)
        .set({ state: "done", finishedAt: Date.now(), elapsed, ...(rounds === null ? {} : { total: active.done }) })
        .where(eq(jobs.id, job.id)),
      ...((await kind.finish?.(job.id, input)) ?? []),
    ]);
    this.tell(job.id);
  }
}

/** Some units of a job, and the number under which they are marked as done. */
interface Span {
  chunk: number;
  from: number;
  to: number;
}

/** Units in chunks. Where they come in rounds a chunk's number is that of its first unit, since rounds end anywhere. */
function spansOf(first: number, end: number, size: number, byUnit: boolean): Span[] {
  const out: Span[] = [];
  for (let from = first; from < end; from += size) out.push({ chunk: byUnit ? from : from / size, from, to: Math.min(end, from + size) });
  return out;
}
