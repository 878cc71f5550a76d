import { and, asc, desc, eq, isNotNull, sql } from "drizzle-orm";
import type { BatchItem } from "drizzle-orm/batch";
import { readSettings, type Metrics, type Settings, type Strategy } from "#core/documents";
import { METRIC_KEYS } from "#core/metrics";
import { figuresFault, layGrid, prepareOptimization, readOptimization, type OptimizationInput, type Search } from "#core/optimize";
import type { BarCache } from "./bar-store";
import type { Database } from "./db/open";
import { jobs, ledger, optimizations, strategies, trials, versions } from "./db/schema";
import type { JobKind, JobProgress } from "./jobs/protocol";
import type { StoredTrial } from "./jobs/work";
import type { JobRunner } from "./jobs/runner";
import type { ExtraSeriesStore } from "./extra-series";
import { Refused } from "./problem";
import type { VersionView } from "./strategies";

export interface OptimizationView {
  id: number;
  number: number;
  versionId: number;
  versionNumber: number;
  strategyId: number;
  strategyName: string;
  search: Search;
  settings: Settings;
  createdAt: number;
  job: JobProgress;
}

export interface TrialView {
  number: number;
  values: Record<string, number>;
  fit: number | null;
  metrics: Metrics;
}

export const CHUNK = 200;

/** What a finished chunk of an optimization writes: its trials, and the count in the ledger. */
export function optimizationJob(db: Database): JobKind<OptimizationInput & { optimizationId: number; strategyId: number }, StoredTrial[]> {
  return {
    kind: "optimization",
    lane: "compute",
    data: (input) => input.settings.markets.map((market) => market.bars),
    commit: (_jobId, input, rows): BatchItem<"sqlite">[] => [
      db.insert(trials).values(rows.map((row) => ({ optimizationId: input.optimizationId, ...row }))),
      db
        .insert(ledger)
        .values({
          strategyId: input.strategyId,
          what: "optimization",
          reference: input.optimizationId,
          count: rows.length,
          fromDate: input.settings.from,
          toDate: input.settings.to,
          at: Date.now(),
        })
        .onConflictDoUpdate({ target: [ledger.what, ledger.reference], set: { count: sql`${ledger.count} + ${rows.length}` } }),
    ],
  };
}

export class Optimizations {
  constructor(
    private readonly db: Database,
    private readonly bars: BarCache,
    private readonly jobs: JobRunner,
    private readonly series: ExtraSeriesStore,
  ) {}

  /** Checks a search over a version before anything is stored; gives the number of trials. */
  async check(strategy: Strategy, given: unknown, settingsGiven: unknown): Promise<{ total: number; search: Search; settings: Settings }> {
    const settings = readSettings(settingsGiven);
    if (settings.value === null) throw new Refused(settings.problems.map((p) => ({ ...p, path: `settings.${p.path}` })));
    const { figures = "all", ...asked } = given as { figures?: unknown };
    if (figures !== "all" && figures !== "trades") throw new Refused([{ path: "figures", message: "figures must be all or trades" }]);
    const plan = readOptimization({ format: "canyon.optimization/1", strategy, settings: settings.value, ...asked });
    if (plan.value === null) throw new Refused(plan.problems);
    const { vary, where, objective, limits, method } = plan.value;
    if (method !== undefined && method.kind !== "grid")
      throw new Refused([{ path: "method.kind", message: `“${method.kind}” runs on the command line (canyon optimize) and not here yet` }]);
    if (objective.length > 1)
      throw new Refused([
        { path: "objective[1]", message: "several objectives run on the command line (canyon optimize) and not here yet" },
      ]);
    const search: Search = { vary, where, objective, limits, figures };
    const fault = figuresFault(search);
    if (fault !== null) throw new Refused([fault]);
    const grid = layGrid(strategy, search);
    if (grid.value === null) throw new Refused(grid.problems);
    try {
      prepareOptimization(
        { strategy, settings: settings.value, search },
        await this.bars.all(settings.value.markets.map((market) => market.bars)),
      );
    } catch (error) {
      throw new Refused([{ path: "settings", message: (error as Error).message }]);
    }
    return { total: grid.value.total, search, settings: settings.value };
  }

  /** Checks, stores and queues an optimization. */
  async create(version: VersionView, given: unknown, settingsGiven: unknown): Promise<number> {
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
        chunkSize: CHUNK,
      }),
      this.db.insert(optimizations).values({
        id,
        versionId: version.id,
        jobId,
        number,
        search: JSON.stringify(search),
        settings: JSON.stringify(settings),
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

  async list(strategyId?: number): Promise<OptimizationView[]> {
    const rows = await this.query()
      .where(strategyId === undefined ? undefined : eq(strategies.id, strategyId))
      .orderBy(desc(optimizations.id));
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
      createdAt: row.optimizations.createdAt,
      job: progress.get(row.jobs.id)!,
    }));
  }

  async get(id: number): Promise<OptimizationView | null> {
    return (await this.list()).find((view) => view.id === id) ?? null;
  }

  private trial = (row: typeof trials.$inferSelect): TrialView => ({
    number: row.number,
    values: JSON.parse(row.values) as Record<string, number>,
    fit: row.fit,
    metrics: JSON.parse(row.metrics) as Metrics,
  });

  /** One page of trials, sorted by fit, number, a varied name or a metric; those without a value last. */
  async trials(id: number, sort: string, down: boolean, offset: number, limit: number): Promise<{ rows: TrialView[]; count: number }> {
    const names = new Set((await this.get(id))?.search.vary.map((item) => item.name));
    const key =
      sort === "number"
        ? sql`${trials.number}`
        : names.has(sort)
          ? sql`json_extract(${trials.values}, ${`$.${sort}`})`
          : METRIC_KEYS.includes(sort)
            ? sql`json_extract(${trials.metrics}, ${`$.${sort}`})`
            : sql`${trials.fit}`;
    const rows = await this.db
      .select()
      .from(trials)
      .where(eq(trials.optimizationId, id))
      .orderBy(sql`${key} IS NULL`, down ? desc(key) : asc(key), asc(trials.number))
      .limit(limit)
      .offset(offset);
    const [{ count }] = await this.db
      .select({ count: sql<number>`count(*)` })
      .from(trials)
      .where(eq(trials.optimizationId, id));
    return { rows: rows.map(this.trial), count };
  }

  /** The trial with the highest fit, ties to the lower number; null while there is none inside the limits. */
  async best(id: number): Promise<TrialView | null> {
    const rows = await this.db
      .select()
      .from(trials)
      .where(and(eq(trials.optimizationId, id), isNotNull(trials.fit)))
      .orderBy(desc(trials.fit), asc(trials.number))
      .limit(1);
    return rows.length === 0 ? null : this.trial(rows[0]);
  }

  async oneTrial(id: number, number: number): Promise<TrialView | null> {
    const [row] = await this.db
      .select()
      .from(trials)
      .where(and(eq(trials.optimizationId, id), eq(trials.number, number)));
    return row === undefined ? null : this.trial(row);
  }

  /** Values of two names and one figure of every trial, for the map; [x, y, value or null, number]. */
  async map(id: number, x: string, y: string, metric: string): Promise<[number, number, number | null, number][]> {
    const value =
      metric === "fit" ? sql<number | null>`${trials.fit}` : sql<number | null>`json_extract(${trials.metrics}, ${`$.${metric}`})`;
    const rows = await this.db
      .select({
        x: sql<number>`json_extract(${trials.values}, ${`$.${x}`})`,
        y: sql<number>`json_extract(${trials.values}, ${`$.${y}`})`,
        value,
        number: trials.number,
      })
      .from(trials)
      .where(eq(trials.optimizationId, id));
    return rows.map((row) => [row.x, row.y, row.value, row.number]);
  }
}
