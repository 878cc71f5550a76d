import { and, desc, eq, lt, sql, type SQL } from "drizzle-orm";
import type { BatchItem } from "drizzle-orm/batch";
import { readSettings, type DocumentProblem, type Settings, type Strategy } from "#core/documents";
import { compileStrategy } from "#core/engine";
import {
  axesOf,
  figuresFault,
  POOLINGS,
  readOptimization,
  repeatedOf,
  type OptimizationInput,
  type Pooling,
  type Search,
  type Tried,
} from "#core/optimize";
import type { CheckInput, CheckOutput } from "./check-stream";
import type { Database } from "./db/open";
import { jobs, ledger, optimizations, strategies, versions } from "./db/schema";
import type { ChunkExecutor, JobKind, JobProgress } from "./jobs/protocol";
import type { JobRunner } from "./jobs/runner";
import type { ExtraSeriesStore } from "./extra-series";
import { symbolsOf } from "#core/settings";
import { optimizationRounds } from "./optimization-rounds";
import { Refused } from "./problem";
import type { Strategies, VersionView } from "./strategies";
import { upgradeTrials, type TrialPart, type TrialStore } from "./trial-store";
import { LOOK } from "./trials";

/** What an optimization was started from. */
export interface Origin {
  /** the plan's name */
  plan: string | null;
  /** the exclusion list's name, and the symbols that it took out */
  without: { list: string; symbols: string[] } | null;
}

export interface OptimizationView {
  id: number;
  number: number;
  versionId: number;
  versionNumber: number;
  strategyId: number;
  strategyName: string;
  search: Search;
  settings: Settings;
  origin: Origin;
  createdAt: number;
  job: JobProgress;
}

/** Trials of a chunk: more where there are very many, since each one is a part of every column. */
const chunkOf = (total: number): number => Math.min(1000, Math.max(200, Math.ceil(total / 1000)));

type OptimizationJob = OptimizationInput & { optimizationId: number; strategyId: number };

/** What a finished chunk of an optimization writes: its trials, and the count in the ledger. */
export function optimizationJob(
  db: Database,
  store: TrialStore,
  distinct: (optimizationId: number) => Promise<number>,
): JobKind<OptimizationJob, TrialPart> {
  const spent = (input: OptimizationJob, count: number) => ({
    strategyId: input.strategyId,
    what: "optimization",
    reference: input.optimizationId,
    count,
    fromDate: input.settings.from,
    toDate: input.settings.to,
    markets: symbolsOf(input.settings),
    at: Date.now(),
  });
  return {
    kind: "optimization",
    lane: "compute",
    data: (input) => input.settings.markets.map((market) => market.bars),
    rounds: (_jobId, input) => optimizationRounds(store, input),
    commit: (_jobId, input, part): BatchItem<"sqlite">[] => {
      const count = part.combination.length;
      return [
        store.insert(input.optimizationId, part),
        db
          .insert(ledger)
          .values(spent(input, count))
          .onConflictDoUpdate({ target: [ledger.what, ledger.reference], set: { count: sql`${ledger.count} + ${count}` } }),
      ];
    },
    // what an earlier optimization tried on the same data is no new look
    finish: async (_jobId, input) => {
      const count = await distinct(input.optimizationId);
      return [
        db
          .insert(ledger)
          .values(spent(input, count))
          .onConflictDoUpdate({ target: [ledger.what, ledger.reference], set: { count } }),
      ];
    },
  };
}

/** Trials that the time of all is told from. */
const MEASURED = 40;

/** The searches that an application makes beyond what a plan file has. */
function ownOptions(given: object): {
  options: Pick<Search, "figures" | "pooling" | "withoutBest">;
  asked: object;
  problems: DocumentProblem[];
} {
  const { figures = "all", pooling = "together", withoutBest = 0, ...asked } = given as Record<string, unknown>;
  const problems: DocumentProblem[] = [];
  if (figures !== "all" && figures !== "trades") problems.push({ path: "figures", message: "figures must be all or trades" });
  if (!POOLINGS.includes(pooling as Pooling)) problems.push({ path: "pooling", message: `pooling must be one of ${POOLINGS.join(", ")}` });
  if (!Number.isInteger(withoutBest) || (withoutBest as number) < 0)
    problems.push({ path: "withoutBest", message: "the number of best trades to leave out must be a whole number from 0 on" });
  return {
    options: {
      figures: figures as Search["figures"],
      ...(pooling === "together" ? {} : { pooling: pooling as Pooling }),
      ...(withoutBest === 0 ? {} : { withoutBest: withoutBest as number }),
    },
    asked,
    problems,
  };
}

export class Optimizations {
  constructor(
    private readonly db: Database,
    private readonly store: TrialStore,
    private readonly jobs: JobRunner,
    private readonly series: ExtraSeriesStore,
    private readonly strategies: Strategies,
    private readonly executor: ChunkExecutor,
  ) {}

  /** Reads a search over a version; refused where it or its settings make no sense by themselves. */
  private read(strategy: Strategy, given: unknown, settingsGiven: unknown): { search: Search; settings: Settings } {
    const settings = readSettings(settingsGiven);
    if (settings.value === null) throw new Refused(settings.problems.map((p) => ({ ...p, path: `settings.${p.path}` })));
    const { options, asked, problems } = ownOptions(given as object);
    if (problems.length > 0) throw new Refused(problems);
    const plan = readOptimization({ format: "canyon.optimization/1", strategy, settings: settings.value, ...asked });
    if (plan.value === null) throw new Refused(plan.problems);
    const { vary, where, objective, limits, method, mark } = plan.value;
    const search: Search = { vary, where, objective, limits, method, mark, ...options };
    const fault = figuresFault(search);
    if (fault !== null) throw new Refused([fault]);
    return { search, settings: settings.value };
  }

  /** Checks a search over a version before anything is stored; gives the number of trials, and how long one takes where some are measured. */
  private async check(strategy: Strategy, given: unknown, settingsGiven: unknown, measured = 0) {
    const { search, settings } = this.read(strategy, given, settingsGiven);
    const input: CheckInput = { strategy, settings, search, measured };
    const found = (await this.executor.run({ ...LOOK, kind: "optimization-check", input })) as CheckOutput;
    if (found.total === null) throw new Refused(found.problems);
    return { total: found.total, seconds: found.seconds, search, settings };
  }

  /**
   * How long an optimization will take, measured from some of its trials spread over the space: seconds with all threads,
   * for as many trials as its method makes at most. Nothing is stored and nothing counted.
   */
  async measure(version: VersionView, given: unknown, settingsGiven: unknown): Promise<{ trials: number; seconds: number }> {
    const complete = await this.series.complete(settingsGiven, [version.strategy]);
    const { total, seconds } = await this.check(version.strategy, given, complete, MEASURED);
    return { trials: total, seconds: (seconds! * total) / this.executor.width };
  }

  /** Checks, stores and queues an optimization. */
  async create(
    version: VersionView,
    given: unknown,
    settingsGiven: unknown,
    origin: Origin = { plan: null, without: null },
  ): Promise<number> {
    const complete = await this.series.complete(settingsGiven, [version.strategy]);
    const { total, search, settings } = await this.check(version.strategy, given, complete);
    const [{ id, jobId, number }] = (
      await this.db.$client.execute({
        sql: `SELECT (SELECT COALESCE(MAX(id), 0) + 1 FROM optimizations) AS id, (SELECT COALESCE(MAX(id), 0) + 1 FROM jobs) AS jobId,
              (SELECT COUNT(*) + 1 FROM optimizations JOIN versions ON versions.id = optimizations.version_id WHERE versions.strategy_id = ?) AS number`,
        args: [version.strategyId],
      })
    ).rows as unknown as { id: number; jobId: number; number: number }[];
    const input = { strategy: version.strategy, settings, search, optimizationId: id, strategyId: version.strategyId };
    await this.db.batch([
      this.jobs.queue({
        id: jobId,
        kind: "optimization",
        title: `${version.strategyName} v${version.number}`,
        input,
        total,
        chunkSize: chunkOf(total),
      }),
      this.db.insert(optimizations).values({
        id,
        versionId: version.id,
        jobId,
        number,
        search: JSON.stringify(search),
        settings: JSON.stringify(settings),
        origin: JSON.stringify(origin),
        createdAt: Date.now(),
      }),
    ]);
    this.jobs.nudge();
    return id;
  }

  private query() {
    return this.db
      .select()
      .from(optimizations)
      .innerJoin(versions, eq(versions.id, optimizations.versionId))
      .innerJoin(strategies, eq(strategies.id, versions.strategyId))
      .innerJoin(jobs, eq(jobs.id, optimizations.jobId));
  }

  private async views(where: SQL | undefined): Promise<OptimizationView[]> {
    const rows = await this.query().where(where).orderBy(desc(optimizations.id));
    const progress = new Map(
      (rows.length === 0 ? [] : await this.jobs.progress(rows.map((row) => row.jobs.id))).map((job) => [job.id, job]),
    );
    return rows.map((row) => ({
      id: row.optimizations.id,
      number: row.optimizations.number,
      versionId: row.versions.id,
      versionNumber: row.versions.number,
      strategyId: row.strategies.id,
      strategyName: row.strategies.name,
      search: JSON.parse(row.optimizations.search) as Search,
      settings: JSON.parse(row.optimizations.settings) as Settings,
      origin: row.optimizations.origin === null ? { plan: null, without: null } : (JSON.parse(row.optimizations.origin) as Origin),
      createdAt: row.optimizations.createdAt,
      job: progress.get(row.jobs.id)!,
    }));
  }

  list(strategyId?: number): Promise<OptimizationView[]> {
    return this.views(strategyId === undefined ? undefined : eq(strategies.id, strategyId));
  }

  async get(id: number): Promise<OptimizationView | null> {
    return (await this.views(eq(optimizations.id, id)))[0] ?? null;
  }

  /** What was tried by an optimization, with its rules and data as they are compared with others'. */
  private async tried(row: typeof optimizations.$inferSelect): Promise<{ of: string; tried: () => Promise<Tried> }> {
    const version = (await this.strategies.version(row.versionId))!;
    const search = JSON.parse(row.search) as Search;
    const compiled = compileStrategy(version.strategy).value!;
    const rules = {
      ...version.strategy,
      name: null,
      notes: null,
      parameters: (version.strategy.parameters ?? []).map(({ name, kind }) => ({ name, kind })),
      definitions: (version.strategy.definitions ?? []).map((one) => ({ ...one, chosen: null })),
    };
    return {
      of: JSON.stringify([rules, row.settings, search.pooling ?? "together"]),
      tried: async () => ({
        axes: axesOf(search.vary, compiled).axes,
        combinations: (await this.store.columns(row.id, [])).combination,
        values: compiled.values,
      }),
    };
  }

  /** Trials of an optimization that no earlier one made with the same rules on the same data. */
  async distinct(id: number): Promise<number> {
    const [row] = await this.db.select().from(optimizations).where(eq(optimizations.id, id));
    const line = await this.db
      .select()
      .from(optimizations)
      .innerJoin(versions, eq(versions.id, optimizations.versionId))
      .where(and(lt(optimizations.id, id), eq(optimizations.settings, row.settings)));
    const own = await this.tried(row);
    const mine = await own.tried();
    const earlier: Tried[] = [];
    for (const other of line) {
      const one = await this.tried(other.optimizations);
      if (one.of === own.of) earlier.push(await one.tried());
    }
    return mine.combinations.length - repeatedOf(mine, earlier);
  }

  /** Brings trials that an earlier version of Canyon stored into the form of this one. */
  async upgrade(): Promise<void> {
    await upgradeTrials(this.db, async (id) => {
      const [row] = await this.db.select().from(optimizations).where(eq(optimizations.id, id));
      const version = (await this.strategies.version(row.versionId))!;
      const { axes } = axesOf((JSON.parse(row.search) as Search).vary, compileStrategy(version.strategy).value!);
      return (values) => axes.reduce((sum, axis) => sum * axis.values.length + axis.values.indexOf(values[axis.name]), 0);
    });
  }
}
