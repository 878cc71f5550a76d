import { and, desc, eq, isNull, sql } from "drizzle-orm";
import { ENGINE_VERSION, readSettings, type Metrics, type Settings } from "#core/documents";
import type { Simulation } from "#core/engine";
import { backtestRun, compareResults, packedOf, resultOf, type ResultDifference } from "#core/runs";
import { outlineOf, type BarCache } from "./bar-store";
import type { Database } from "./db/open";
import { ledger, runParts, runs, runSettings, runSettingsVersions, strategies, versions } from "./db/schema";
import type { ExtraSeriesStore } from "./extra-series";
import { Refused } from "./problem";
import { RunPartStore, type StoredResult } from "./run-parts";
import { symbolsOf } from "#core/settings";
import type { Strategies, VersionView } from "./strategies";

export interface RunSummary {
  id: number;
  versionId: number;
  versionNumber: number;
  strategyId: number;
  strategyName: string;
  number: number;
  fingerprint: string;
  engine: string;
  settings: Settings;
  /** the saved run settings that it was computed under, where they were taken as they are */
  under: { id: number; name: string; number: number } | null;
  metrics: { all: Metrics; long: Metrics; short: Metrics };
  outline: number[];
  note: string;
  tags: string[];
  pinned: boolean;
  createdAt: number;
}

/** What a trader writes down of a run beside its result. */
export interface RunMarks {
  note?: string;
  tags?: string[];
  pinned?: boolean;
}

/** A stored run; what is long of its result is fetched as it is asked for. */
export interface StoredRun {
  summary: RunSummary;
  version: VersionView;
  result: StoredResult;
}

export class Runs {
  readonly parts: RunPartStore;

  constructor(
    private readonly db: Database,
    private readonly bars: BarCache,
    private readonly strategies: Strategies,
    private readonly series: ExtraSeriesStore,
  ) {
    this.parts = new RunPartStore(db);
  }

  /** Computes a backtest of a version. Refuses with every problem. */
  async compute(version: VersionView, given: unknown): Promise<{ simulation: Simulation; fingerprint: string; settings: Settings }> {
    const read = readSettings(given);
    if (read.value === null) throw new Refused(read.problems.map((p) => ({ ...p, path: `settings.${p.path}` })));
    const settings = read.value;
    const run = backtestRun(version.strategy, settings, await this.bars.all(settings.markets.map((market) => market.bars)));
    if (run.simulation === null)
      throw new Refused(run.problems.map(({ in: where, path, message }) => ({ path: `${where}.${path}`, message })));
    return { ...run, settings };
  }

  /**
   * Computes and stores a run; the same fingerprint on the same version is stored once. `under`: the version of saved run
   * settings that lay over those at hand; `hand`: these, which the version keeps as what it was last looked at with.
   */
  async save(
    version: VersionView,
    given: unknown,
    { under = null, hand = given }: { under?: number | null; hand?: unknown } = {},
  ): Promise<number> {
    const { simulation, fingerprint, settings } = await this.compute(version, await this.series.complete(given, [version.strategy]));
    const known = await this.db
      .select({ id: runs.id })
      .from(runs)
      .where(and(eq(runs.versionId, version.id), eq(runs.fingerprint, fingerprint)));
    if (known.length > 0) {
      if (under !== null) await this.db.update(runs).set({ underId: under }).where(eq(runs.id, known[0].id));
      return known[0].id;
    }
    const [{ next, number }] = (
      await this.db.$client.execute({
        sql: "SELECT (SELECT COALESCE(MAX(id), 0) + 1 FROM runs) AS next, (SELECT COUNT(*) + 1 FROM runs JOIN versions ON versions.id = runs.version_id WHERE versions.strategy_id = ?) AS number",
        args: [version.strategyId],
      })
    ).rows as unknown as { next: number; number: number }[];
    const now = Date.now();
    const result = packedOf(simulation, fingerprint);
    const { head, parts } = this.parts.packed(result);
    await this.db.batch([
      this.db.insert(runs).values({
        id: next,
        versionId: version.id,
        number,
        fingerprint,
        engine: ENGINE_VERSION,
        settings: JSON.stringify(settings),
        metrics: JSON.stringify(result.head.metrics),
        outline: JSON.stringify(outlineOf(simulation.equity)),
        underId: under,
        result: head,
        createdAt: now,
      }),
      this.db.insert(runParts).values(parts.map((part) => ({ runId: next, ...part }))),
      this.db.insert(ledger).values({
        strategyId: version.strategyId,
        what: "run",
        reference: next,
        count: 1,
        fromDate: settings.from,
        toDate: settings.to,
        markets: symbolsOf(settings),
        at: now,
      }),
      this.db
        .update(versions)
        .set({ settings: JSON.stringify(hand === given ? settings : readSettings(hand).value) })
        .where(eq(versions.id, version.id)),
    ]);
    return next;
  }

  private columns = {
    id: runs.id,
    versionId: runs.versionId,
    versionNumber: versions.number,
    strategyId: strategies.id,
    strategyName: strategies.name,
    number: runs.number,
    fingerprint: runs.fingerprint,
    engine: runs.engine,
    settings: runs.settings,
    metrics: runs.metrics,
    outline: runs.outline,
    note: runs.note,
    tags: runs.tags,
    pinned: runs.pinned,
    createdAt: runs.createdAt,
    underId: runSettings.id,
    underName: runSettings.name,
    underNumber: runSettingsVersions.number,
  };

  private query() {
    return this.db
      .select(this.columns)
      .from(runs)
      .innerJoin(versions, eq(versions.id, runs.versionId))
      .innerJoin(strategies, eq(strategies.id, versions.strategyId))
      .leftJoin(runSettingsVersions, eq(runSettingsVersions.id, runs.underId))
      .leftJoin(runSettings, eq(runSettings.id, runSettingsVersions.settingsId));
  }

  private summary = ({
    underId,
    underName,
    underNumber,
    ...row
  }: Omit<RunSummary, "settings" | "metrics" | "outline" | "under" | "tags"> & {
    tags: string;
    settings: string;
    metrics: string;
    outline: string;
    underId: number | null;
    underName: string | null;
    underNumber: number | null;
  }): RunSummary => ({
    ...row,
    under: underId === null ? null : { id: underId, name: underName!, number: underNumber! },
    settings: JSON.parse(row.settings) as Settings,
    metrics: JSON.parse(row.metrics) as RunSummary["metrics"],
    outline: JSON.parse(row.outline) as number[],
    tags: row.tags === "" ? [] : row.tags.split(","),
  });

  /** Stored runs of a strategy, newest first. */
  async ofStrategy(strategyId: number): Promise<RunSummary[]> {
    return (await this.query().where(eq(strategies.id, strategyId)).orderBy(desc(runs.id))).map(this.summary);
  }

  /** Stored runs of all strategies that were not taken out, newest first. */
  async all(): Promise<RunSummary[]> {
    return (await this.query().where(isNull(strategies.deletedAt)).orderBy(desc(runs.id))).map(this.summary);
  }

  /** Writes down a note, tags or a pin; the result itself never changes. Refuses a run that is none and a tag with a comma in it. */
  async mark(id: number, { note, tags, pinned }: RunMarks): Promise<void> {
    const words = tags?.map((tag) => tag.trim()).filter((tag) => tag !== "");
    if (words?.some((tag) => tag.includes(",") || tag.length > 40))
      throw new Refused([{ path: "tags", message: "a tag has no comma in it and at most 40 letters" }]);
    const changed = await this.db
      .update(runs)
      .set({
        ...(note === undefined ? {} : { note: note.trim() }),
        ...(words === undefined ? {} : { tags: [...new Set(words)].join(",") }),
        ...(pinned === undefined ? {} : { pinned }),
      })
      .where(eq(runs.id, id));
    if (changed.rowsAffected === 0) throw new Refused([{ path: "run", message: `there is no run ${id}` }], 404);
  }

  /** The newest stored run of each strategy. */
  async newest(): Promise<Map<number, RunSummary>> {
    const rows = await this.query()
      .where(
        and(
          isNull(strategies.deletedAt),
          eq(runs.id, sql`(SELECT MAX(r.id) FROM runs r JOIN versions v ON v.id = r.version_id WHERE v.strategy_id = ${strategies.id})`),
        ),
      )
      .orderBy(desc(runs.id));
    return new Map(rows.map((row) => [row.strategyId, this.summary(row)]));
  }

  /** A stored run, or null. */
  async get(id: number): Promise<StoredRun | null> {
    const [row] = await this.query().where(eq(runs.id, id));
    if (row === undefined) return null;
    const [{ result }] = await this.db.select({ result: runs.result }).from(runs).where(eq(runs.id, id));
    const version = (await this.strategies.version(row.versionId))!;
    return { summary: this.summary(row), version, result: await this.parts.result(id, result) };
  }

  /** Computes a stored run again and compares: the same to the last bit, or what differs from what was stored. */
  async recompute(id: number): Promise<ResultDifference | null> {
    const stored = await this.get(id);
    if (stored === null) return null;
    const { simulation, fingerprint } = await this.compute(stored.version, stored.summary.settings);
    return compareResults(await stored.result.document(), resultOf(simulation, fingerprint));
  }
}
