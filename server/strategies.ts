import { and, asc, desc, eq, isNull, sql } from "drizzle-orm";
import { bareStrategy, hashOf, readSettings, readStrategy, type Settings, type Strategy } from "#core/documents";
import { compileStrategy } from "#core/engine";
import type { Database } from "./db/open";
import type { StoredAudit } from "./audits";
import { ledger, optimizations, probes, runs, strategies, tries, versions } from "./db/schema";
import { Refused, refuse } from "./problem";
import { STATUSES, type Status } from "./status";

export interface VersionView {
  id: number;
  strategyId: number;
  strategyName: string;
  status: Status;
  number: number;
  strategy: Strategy;
  hash: string;
  note: string;
  settings: Settings | null;
  audit: StoredAudit | null;
  createdAt: number;
}

/** Trials spent on a strategy's line, by what spent them. */
export interface TrialLedger {
  tries: number;
  runs: number;
  optimizations: number;
  probes: number;
  total: number;
}

export class Strategies {
  constructor(private readonly db: Database) {}

  private view = (row: { strategies: typeof strategies.$inferSelect; versions: typeof versions.$inferSelect }): VersionView => ({
    id: row.versions.id,
    strategyId: row.strategies.id,
    strategyName: row.strategies.name,
    status: row.strategies.status as Status,
    number: row.versions.number,
    strategy: JSON.parse(row.versions.document) as Strategy,
    hash: row.versions.hash,
    note: row.versions.note,
    settings: row.versions.settings === null ? null : (JSON.parse(row.versions.settings) as Settings),
    audit: row.versions.audit === null ? null : (JSON.parse(row.versions.audit) as StoredAudit),
    createdAt: row.versions.createdAt,
  });

  private query() {
    return this.db.select().from(versions).innerJoin(strategies, eq(strategies.id, versions.strategyId));
  }

  /** The newest version of every strategy that is not deleted, the last changed first. */
  async newest(): Promise<VersionView[]> {
    const rows = await this.query().where(isNull(strategies.deletedAt)).orderBy(desc(strategies.updatedAt), desc(versions.number));
    const seen = new Set<number>();
    return rows.map(this.view).filter((version) => !seen.has(version.strategyId) && seen.add(version.strategyId));
  }

  async version(id: number): Promise<VersionView | null> {
    const rows = await this.query().where(eq(versions.id, id));
    return rows.length === 0 ? null : this.view(rows[0]);
  }

  /** All versions of a strategy, oldest first. */
  async versionsOf(strategyId: number): Promise<VersionView[]> {
    const rows = await this.query()
      .where(and(eq(versions.strategyId, strategyId), isNull(strategies.deletedAt)))
      .orderBy(asc(versions.number));
    return rows.map(this.view);
  }

  /** Reads a strategy's document and compiles it; refuses with every problem. */
  check(given: unknown): Strategy {
    const read = readStrategy(given);
    if (read.value === null) throw new Refused(read.problems);
    const strategy = read.value;
    if (!strategy.name || strategy.name.trim() === "") throw new Refused([{ path: "name", message: "a strategy needs a name" }]);
    const compiled = compileStrategy(strategy);
    if (compiled.value === null)
      throw new Refused(
        compiled.problems.map(({ path, message, rule }) => ({
          path,
          message: rule ? `line ${rule.line}, column ${rule.column}: ${message}` : message,
        })),
      );
    if (!strategy.long?.enter && !strategy.short?.enter)
      throw new Refused([{ path: "long", message: "the strategy never enters: write a rule to enter long or short" }]);
    return strategy;
  }

  /** Makes a strategy with its first version. */
  async create(given: unknown, note: string, settings: unknown): Promise<VersionView> {
    const strategy = this.check(given);
    const now = Date.now();
    const next = (await this.db.$client.execute("SELECT COALESCE(MAX(id), 0) + 1 AS next FROM strategies")).rows[0].next as number;
    await this.db.batch([
      this.db.insert(strategies).values({ id: next, name: strategy.name!, status: "draft", createdAt: now, updatedAt: now }),
      this.db.insert(versions).values(this.row(next, 1, strategy, note, settings, now)),
    ]);
    return (await this.versionsOf(next))[0];
  }

  private row(strategyId: number, number: number, strategy: Strategy, note: string, settings: unknown, now: number) {
    const read = settings === null || settings === undefined ? null : readSettings(settings);
    if (read !== null && read.value === null) throw new Refused(read.problems.map((p) => ({ ...p, path: `settings.${p.path}` })));
    return {
      strategyId,
      number,
      document: JSON.stringify(strategy),
      hash: hashOf(bareStrategy(strategy)),
      note,
      settings: read === null ? null : JSON.stringify(read.value),
      createdAt: now,
    };
  }

  /**
   * Saves the next version. `basedOn` is the number of the version that the change started from: where a newer one was
   * saved meanwhile, nothing is written and the refusal says so (status 409).
   */
  async save(strategyId: number, basedOn: number, given: unknown, note: string, settings: unknown, evenSo = false): Promise<VersionView> {
    const strategy = this.check(given);
    const all = await this.versionsOf(strategyId);
    if (all.length === 0) refuse("strategy", "this strategy does not exist any more", 404);
    const newest = all[all.length - 1];
    if (newest.number !== basedOn && !evenSo)
      refuse(
        "version",
        `version ${newest.number} was saved meanwhile, in another window perhaps; your change to version ${basedOn} is kept here and not saved yet`,
        409,
      );
    const now = Date.now();
    try {
      await this.db.batch([
        this.db.insert(versions).values(this.row(strategyId, newest.number + 1, strategy, note, settings, now)),
        this.db.update(strategies).set({ name: strategy.name!, updatedAt: now }).where(eq(strategies.id, strategyId)),
      ]);
    } catch (error) {
      if (/UNIQUE constraint failed: versions/.test(String((error as Error).cause ?? error)))
        refuse(
          "version",
          `version ${newest.number + 1} was saved at the same moment, in another window perhaps; your change is kept here and not saved yet`,
          409,
        );
      throw error;
    }
    return (await this.versionsOf(strategyId)).at(-1)!;
  }

  async setStatus(strategyId: number, status: string): Promise<void> {
    if (!(STATUSES as readonly string[]).includes(status)) refuse("status", `status must be one of ${STATUSES.join(", ")}`);
    await this.db.update(strategies).set({ status }).where(eq(strategies.id, strategyId));
  }

  async remove(strategyId: number): Promise<void> {
    await this.db.update(strategies).set({ deletedAt: Date.now() }).where(eq(strategies.id, strategyId));
  }

  async restore(strategyId: number): Promise<void> {
    await this.db.update(strategies).set({ deletedAt: null }).where(eq(strategies.id, strategyId));
  }

  /** How many trials were spent on each strategy's line. */
  async trialCounts(): Promise<Map<number, number>> {
    const counts = new Map<number, number>();
    const rows = await this.db
      .select({ id: ledger.strategyId, count: sql<number>`sum(${ledger.count})` })
      .from(ledger)
      .groupBy(ledger.strategyId);
    const tried = await this.db
      .select({ id: tries.strategyId, count: sql<number>`count(*)` })
      .from(tries)
      .groupBy(tries.strategyId);
    for (const { id, count } of [...rows, ...tried]) counts.set(id, (counts.get(id) ?? 0) + count);
    return counts;
  }

  /** The trials spent on one strategy's line, by what spent them. */
  async trialsOf(strategyId: number): Promise<TrialLedger> {
    const rows = await this.db
      .select({ what: ledger.what, count: sql<number>`sum(${ledger.count})` })
      .from(ledger)
      .where(eq(ledger.strategyId, strategyId))
      .groupBy(ledger.what);
    const [tried] = await this.db
      .select({ count: sql<number>`count(*)` })
      .from(tries)
      .where(eq(tries.strategyId, strategyId));
    const of = (what: string) => rows.find((row) => row.what === what)?.count ?? 0;
    const parts = { tries: tried.count, runs: of("run"), optimizations: of("optimization"), probes: of("probe") };
    return { ...parts, total: parts.tries + parts.runs + parts.optimizations + parts.probes };
  }

  /** Counts what was tried on a strategy's line; the same strategy under the same settings counts once. Gives the ledger. */
  async countTries(
    strategyId: number,
    given: readonly { hash: string; from: string | null; to: string | null; markets?: string | null }[],
  ): Promise<TrialLedger> {
    const at = Date.now();
    const rows = given.map(({ hash, from, to, markets = null }) => ({ strategyId, hash, fromDate: from, toDate: to, markets, at }));
    if (rows.length > 0) await this.db.insert(tries).values(rows).onConflictDoNothing();
    return this.trialsOf(strategyId);
  }

  /** Changes a version's note. The version itself never changes. */
  async setNote(versionId: number, note: string): Promise<void> {
    await this.db.update(versions).set({ note }).where(eq(versions.id, versionId));
  }

  /** Makes an older version the newest again, as a version of its own. */
  async makeNewest(strategyId: number, number: number): Promise<VersionView> {
    const all = await this.versionsOf(strategyId);
    const older = all.find((version) => version.number === number);
    if (older === undefined) return refuse("version", `there is no version ${number} of this strategy`, 404);
    return this.save(strategyId, all[all.length - 1].number, older.strategy, `version ${number} restored`, older.settings);
  }

  /** A strategy of its own that starts from a version: a branch of the idea. Its trials are counted anew, its note says where it came from. */
  async branch(versionId: number, name: string): Promise<VersionView> {
    const version = await this.version(versionId);
    if (version === null) return refuse("version", "this version does not exist any more", 404);
    const note = `branched from ${version.strategyName}, version ${version.number}`;
    return this.create({ ...version.strategy, name }, note, version.settings);
  }

  /** How much hangs on a strategy: runs, optimizations and probes over all its versions. */
  async counts(strategyId: number): Promise<{ runs: number; optimizations: number; probes: number }> {
    const of = async (table: typeof runs | typeof optimizations | typeof probes) => {
      const [row] = await this.db
        .select({ count: sql<number>`count(*)` })
        .from(table)
        .innerJoin(versions, eq(versions.id, table.versionId))
        .where(eq(versions.strategyId, strategyId));
      return row.count;
    };
    return { runs: await of(runs), optimizations: await of(optimizations), probes: await of(probes) };
  }
}
