import { asc, desc, eq, inArray } from "drizzle-orm";
import type { OptimizationInput, Permuting } from "#core/optimize";
import type { Database } from "./db/open";
import { studies, studyParts } from "./db/schema";
import type { JobKind, JobProgress } from "./jobs/protocol";
import type { JobRunner } from "./jobs/runner";
import type { OptimizationView } from "./optimizations";
import { Refused } from "./problem";
import type { Strategies } from "./strategies";

/** Repetitions of a whole optimization on permuted bars, and what the best of each gave. */
export interface PermutedStudy {
  id: number;
  permuting: Permuting;
  repetitions: number;
  /** what is there, by repetition; null where no trial was inside the limits */
  best: (number | null)[];
  job: JobProgress;
  createdAt: number;
}

type PermutedInput = OptimizationInput & { permuting: Permuting; studyId: number };

const MOST_REPETITIONS = 1000;

/** Long looks at finished optimizations, computed part by part as jobs. */
export class Studies {
  constructor(
    private readonly db: Database,
    private readonly jobs: JobRunner,
    private readonly strategies: Strategies,
  ) {}

  /** What a finished repetition writes. */
  kind(): JobKind<PermutedInput, (number | null)[]> {
    return {
      kind: "permuted",
      lane: "compute",
      data: (input) => input.settings.markets.map((market) => market.bars),
      // a repetition is one chunk, so that its number is the chunk's
      commit: (_jobId, { studyId }, output, chunk) => [
        this.db.insert(studyParts).values({ studyId, part: chunk, output: JSON.stringify(output) }),
      ],
    };
  }

  /** Queues a study of what luck alone would have found; refused with what is wrong. */
  async permuted(view: OptimizationView, given: { repetitions: number; days: number; seed: number }): Promise<number> {
    const { repetitions, days, seed } = given;
    const problems = [
      ...(Number.isInteger(repetitions) && repetitions >= 1 && repetitions <= MOST_REPETITIONS
        ? []
        : [{ path: "repetitions", message: `must be a whole number from 1 to ${MOST_REPETITIONS}` }]),
      ...(Number.isInteger(days) && days >= 1 ? [] : [{ path: "days", message: "a block must have a whole number of days from 1 on" }]),
      ...(Number.isInteger(seed) ? [] : [{ path: "seed", message: "must be a whole number" }]),
      ...(view.job.state === "done"
        ? []
        : [{ path: "optimization", message: "luck is set against the best of all trials, which is known once they are there" }]),
    ];
    if (problems.length > 0) throw new Refused(problems);
    const version = (await this.strategies.version(view.versionId))!;
    const [{ id, jobId }] = (
      await this.db.$client.execute(
        `SELECT (SELECT COALESCE(MAX(id), 0) + 1 FROM studies) AS id, (SELECT COALESCE(MAX(id), 0) + 1 FROM jobs) AS jobId`,
      )
    ).rows as unknown as { id: number; jobId: number }[];
    const { settings, search } = view;
    const input: PermutedInput = { strategy: version.strategy, settings, search, permuting: { days, seed }, studyId: id };
    await this.db.batch([
      this.jobs.queue({
        id: jobId,
        kind: "permuted",
        title: `${view.strategyName} v${view.versionNumber}, no. ${view.number} on permuted bars`,
        input,
        total: repetitions,
        chunkSize: 1,
      }),
      this.db.insert(studies).values({
        id,
        kind: "permuted",
        optimizationId: view.id,
        jobId,
        input: JSON.stringify({ repetitions, permuting: { days, seed } }),
        createdAt: Date.now(),
      }),
    ]);
    this.jobs.nudge();
    return id;
  }

  /** Studies of an optimization, the newest first. */
  async of(optimizationId: number): Promise<PermutedStudy[]> {
    const rows = await this.db.select().from(studies).where(eq(studies.optimizationId, optimizationId)).orderBy(desc(studies.id));
    if (rows.length === 0) return [];
    const [progress, parts] = await Promise.all([
      this.jobs.progress(rows.map((row) => row.jobId)),
      this.db
        .select()
        .from(studyParts)
        .where(
          inArray(
            studyParts.studyId,
            rows.map((row) => row.id),
          ),
        )
        .orderBy(asc(studyParts.part)),
    ]);
    return rows.map((row) => {
      const { repetitions, permuting } = JSON.parse(row.input) as { repetitions: number; permuting: Permuting };
      return {
        id: row.id,
        permuting,
        repetitions,
        best: parts.filter((part) => part.studyId === row.id).flatMap((part) => JSON.parse(part.output) as (number | null)[]),
        job: progress.find((job) => job.id === row.jobId)!,
        createdAt: row.createdAt,
      };
    });
  }

  /** The optimization that a job's study belongs to, by the job's number. */
  async owners(): Promise<Map<number, number>> {
    const rows = await this.db.select({ jobId: studies.jobId, optimizationId: studies.optimizationId }).from(studies);
    return new Map(rows.map((row) => [row.jobId, row.optimizationId]));
  }
}
