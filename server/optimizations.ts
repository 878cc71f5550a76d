import { and, asc, desc, eq, isNotNull, sql } from "drizzle-orm";
import type { BatchItem } from "drizzle-orm/batch";
import { readSettings, type Metrics, type Settings, type Strategy } from "#core/documents";
import { METRIC_KEYS } from "#core/metrics";
import {
  combinationAt,
  computeCombinations,
  figuresFault,
  laySpace,
  mostTrials,
  prepareOptimization,
  readOptimization,
  trialsIn,
  type Standing,
  type OptimizationInput,
  type Search,
} from "#core/optimize";
import type { BarCache } from "./bar-store";
import type { Database } from "./db/open";
import { jobs, ledger, optimizations, strategies, trials, versions } from "./db/schema";
import type { ChunkExecutor, JobKind, JobProgress } from "./jobs/protocol";
import type { StoredTrial } from "./jobs/work";
import type { JobRunner } from "./jobs/runner";
import type { ExtraSeriesStore } from "./extra-series";
import { judgeOptimization, type Judgement } from "./optimization-judgement";
import { optimizationLuck, type OptimizationLuck } from "./optimization-luck";
import { finalFits, optimizationRounds } from "./optimization-rounds";
import { Refused, refuse } from "./problem";
import type { Strategies, VersionView } from "./strategies";

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
    rounds: (_jobId, input) => optimizationRounds(db, input),
    finish: (_jobId, input) => finalFits(db, input),
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

/** What was computed of a finished optimization stays at hand; what failed is tried again. */
function once<T>(held: Map<number, Promise<T>>, id: number, make: () => Promise<T>): Promise<T> {
  let known = held.get(id);
  if (known === undefined) {
    known = make();
    known.catch(() => held.delete(id));
    held.set(id, known);
  }
  return known;
}

/** Trials that the time of all is told from. */
const MEASURED = 40;

export class Optimizations {
  private readonly judgements = new Map<number, Promise<Judgement>>();
  private readonly lucks = new Map<number, Promise<OptimizationLuck>>();

  constructor(
    private readonly db: Database,
    private readonly bars: BarCache,
    private readonly jobs: JobRunner,
    private readonly series: ExtraSeriesStore,
    private readonly strategies: Strategies,
    private readonly executor: ChunkExecutor,
  ) {}

  private barsOf({ settings }: OptimizationView) {
    return this.bars.all(settings.markets.map((market) => market.bars));
  }

  /** The peak, the deepest trial of the plateau, the baseline and the profiles; null while the optimization is not done. */
  async judged(id: number): Promise<Judgement | null> {
    const view = await this.get(id);
    if (view?.job.state !== "done") return null;
    return once(this.judgements, id, async () =>
      judgeOptimization(this.db, view, (await this.strategies.version(view.versionId))!, await this.barsOf(view)),
    );
  }

  /** Computes how much is luck, once; refused while the optimization is not done. */
  async luck(id: number): Promise<OptimizationLuck> {
    const view = await this.get(id);
    if (view?.job.state !== "done") return refuse("optimization", "how much is luck is known once all trials are there", 409);
    return once(this.lucks, id, async () => {
      const version = (await this.strategies.version(view.versionId))!;
      const [bars, ledgerCount] = [await this.barsOf(view), await this.strategies.trialsOf(view.strategyId)];
      return optimizationLuck(this.db, this.executor, view, version, bars, ledgerCount.total);
    });
  }

  /** Checks a search over a version before anything is stored; gives the number of trials. */
  async check(strategy: Strategy, given: unknown, settingsGiven: unknown): Promise<{ total: number; search: Search; settings: Settings }> {
    const settings = readSettings(settingsGiven);
    if (settings.value === null) throw new Refused(settings.problems.map((p) => ({ ...p, path: `settings.${p.path}` })));
    const { figures = "all", ...asked } = given as { figures?: unknown };
    if (figures !== "all" && figures !== "trades") throw new Refused([{ path: "figures", message: "figures must be all or trades" }]);
    const plan = readOptimization({ format: "canyon.optimization/1", strategy, settings: settings.value, ...asked });
    if (plan.value === null) throw new Refused(plan.problems);
    const { vary, where, objective, limits, method, mark } = plan.value;
    const search: Search = { vary, where, objective, limits, method, mark, figures };
    const fault = figuresFault(search);
    if (fault !== null) throw new Refused([fault]);
    const space = laySpace(strategy, search);
    if (space.value === null) throw new Refused(space.problems);
    try {
      prepareOptimization(
        { strategy, settings: settings.value, search },
        await this.bars.all(settings.value.markets.map((market) => market.bars)),
      );
    } catch (error) {
      throw new Refused([{ path: "settings", message: (error as Error).message }]);
    }
    return { total: mostTrials(space.value, method ?? { kind: "grid" }), search, settings: settings.value };
  }

  /**
   * How long an optimization will take, measured from some of its trials spread over the space: seconds with all threads,
   * for as many trials as its method makes at most. Nothing is stored and nothing counted.
   */
  async measure(version: VersionView, given: unknown, settingsGiven: unknown): Promise<{ trials: number; seconds: number }> {
    const complete = await this.series.complete(settingsGiven, [version.strategy]);
    const { total, search, settings } = await this.check(version.strategy, given, complete);
    const bars = await this.bars.all(settings.markets.map((market) => market.bars));
    const prepared = prepareOptimization({ strategy: version.strategy, settings, search }, bars);
    const space = laySpace(version.strategy, search).value!;
    const count = trialsIn(space);
    // the first ones compute columns that later ones find; so do a thread's first ones
    const some = Array.from({ length: Math.min(count, MEASURED) }, (_, k) =>
      combinationAt(space, Math.floor((k * count) / Math.min(count, MEASURED))),
    );
    const start = performance.now();
    computeCombinations(prepared.grid, prepared.run, some, 0, { figures: search.figures });
    const each = (performance.now() - start) / 1000 / some.length;
    return { trials: total, seconds: (each * total) / this.executor.width };
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

  /** Two figures of every trial inside the limits that has both, by number. */
  async standings(id: number, x: string, y: string): Promise<Standing[]> {
    const figure = (key: string) => sql<number | null>`json_extract(${trials.metrics}, ${`$.${key}`})`;
    const rows = await this.db
      .select({ number: trials.number, x: figure(x), y: figure(y) })
      .from(trials)
      .where(and(eq(trials.optimizationId, id), isNotNull(trials.fit)))
      .orderBy(asc(trials.number));
    return rows.flatMap((row) => (row.x === null || row.y === null ? [] : [{ number: row.number, x: row.x, y: row.y }]));
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
