import { and, asc, desc, eq, isNull } from "drizzle-orm";
import type { BatchItem } from "drizzle-orm/batch";
import { withoutTimes, type Bars } from "#core/bars";
import { storeBars, type BarCache } from "./bar-store";
import type { Database } from "./db/open";
import { decisions, sourceChanges, sources } from "./db/schema";
import { refuse } from "./problem";
import { beforeSeal, markOpen, markSealed, sealOf } from "./seal-cut";

/** A decision on a finding of the quality report. */
export interface Decision {
  id: number;
  finding: string;
  action: "accept" | "leaveOut";
  text: string;
  times: number[];
  reason: string;
  createdAt: number;
  undoneAt: number | null;
}

/** Something that happened to a source's bars. */
export interface SourceChange {
  id: number;
  at: number;
  what: string;
  added: number;
  changed: number;
  rejected: number;
  rawBefore: string | null;
  rawAfter: string;
  note: string;
}

/** The sources of markets: which one counts, what was done to their bars, and how to take it back. */
export class Sources {
  constructor(
    private readonly db: Database,
    private readonly bars: BarCache,
  ) {}

  async row(id: number): Promise<typeof sources.$inferSelect> {
    const [row] = await this.db.select().from(sources).where(eq(sources.id, id));
    return row ?? refuse("source", "there is no such source", 404);
  }

  /** The source of a market by name and timeframe, or null. */
  async find(marketId: number, name: string, timeframe: string): Promise<typeof sources.$inferSelect | null> {
    const [row] = await this.db
      .select()
      .from(sources)
      .where(and(eq(sources.marketId, marketId), eq(sources.name, name), eq(sources.timeframe, timeframe)));
    return row ?? null;
  }

  /** Adds a further source to a market. */
  async add(
    marketId: number,
    name: string,
    timeframe: string,
    bars: Bars,
    more: { served?: boolean; note?: string } = {},
  ): Promise<number> {
    if (await this.find(marketId, name, timeframe)) return refuse("source", `the market has a source ${name} of ${timeframe} bars already`);
    const { hash, statements } = await storeBars(this.db, bars);
    const [next, source] = await this.newStatements(marketId, name, timeframe, hash, bars.length, 0, { ...more, bars });
    const [first, ...rest] = [...statements, ...source];
    await this.db.batch([first, ...rest]);
    return next;
  }

  /** The id of a further source and the statements that write it, its bars being stored in the same batch. */
  async newStatements(
    marketId: number,
    name: string,
    timeframe: string,
    hash: string,
    count: number,
    rejected: number,
    more: { served?: boolean; format?: string; note?: string; bars?: Bars },
  ): Promise<[id: number, statements: BatchItem<"sqlite">[]]> {
    const counting = await this.counting(marketId, timeframe, hash, new Set(), more.bars);
    const id = Number((await this.db.$client.execute("SELECT COALESCE(MAX(id), 0) + 1 AS next FROM sources")).rows[0].next);
    const now = Date.now();
    return [
      id,
      [
        ...counting.statements,
        this.db.insert(sources).values({
          id,
          marketId,
          name,
          timeframe,
          isDefault: 0,
          barsHash: counting.hash,
          rawHash: hash,
          format: more.format ?? null,
          served: more.served ? 1 : 0,
          updatedAt: now,
        }),
        this.db.insert(sourceChanges).values({
          sourceId: id,
          at: now,
          what: "created",
          added: count,
          changed: 0,
          rejected,
          rawBefore: null,
          rawAfter: hash,
          note: more.note ?? "",
        }),
      ],
    ];
  }

  /** Makes a source the one that counts unless another is asked for. */
  async makeDefault(id: number): Promise<void> {
    const row = await this.row(id);
    await this.db.batch([
      this.db.update(sources).set({ isDefault: 0 }).where(eq(sources.marketId, row.marketId)),
      this.db.update(sources).set({ isDefault: 1 }).where(eq(sources.id, id)),
    ]);
  }

  async changes(id: number): Promise<SourceChange[]> {
    return this.db.select().from(sourceChanges).where(eq(sourceChanges.sourceId, id)).orderBy(desc(sourceChanges.id)).limit(200);
  }

  /** Decisions on findings, oldest first, undone ones included. */
  async decisions(id: number): Promise<Decision[]> {
    const rows = await this.db.select().from(decisions).where(eq(decisions.sourceId, id)).orderBy(asc(decisions.id));
    return rows.map((row) => ({ ...row, action: row.action as Decision["action"], times: JSON.parse(row.times) as number[] }));
  }

  /** The times that corrections in force leave out of a source. */
  async leftOut(id: number): Promise<Set<number>> {
    const rows = await this.db
      .select()
      .from(decisions)
      .where(and(eq(decisions.sourceId, id), eq(decisions.action, "leaveOut"), isNull(decisions.undoneAt)));
    return new Set(rows.flatMap((row) => JSON.parse(row.times) as number[]));
  }

  /** Accepts a finding, or leaves its bars out: recorded with its reason, and reversible. */
  async decide(
    id: number,
    finding: { key: string; text: string; times: readonly number[] },
    action: Decision["action"],
    reason: string,
  ): Promise<number> {
    const row = await this.row(id);
    const open = (await this.decisions(id)).find((decision) => decision.finding === finding.key && decision.undoneAt === null);
    if (open !== undefined) return refuse("finding", "something was decided on this finding already; undo that first");
    const insert = this.db
      .insert(decisions)
      .values({
        sourceId: id,
        finding: finding.key,
        action,
        text: finding.text,
        times: JSON.stringify(action === "leaveOut" ? finding.times : []),
        reason: reason.trim(),
        createdAt: Date.now(),
      })
      .returning({ id: decisions.id });
    if (action === "accept") return (await insert)[0].id;
    if (finding.times.length === 0) return refuse("finding", "this finding speaks of no bar that could be left out");
    const times = await this.leftOut(id);
    for (const time of finding.times) times.add(time);
    const { statements } = await this.effective(row, times, "correction", `${finding.times.length} bars left out: ${finding.text}`);
    const [[decision]] = await this.db.batch([insert, ...statements]);
    return decision.id;
  }

  /** Takes a decision back; bars that it left out count again. */
  async undo(decisionId: number): Promise<void> {
    const [decision] = await this.db.select().from(decisions).where(eq(decisions.id, decisionId));
    if (decision === undefined) return refuse("decision", "there is no such decision", 404);
    if (decision.undoneAt !== null) return;
    const close = this.db.update(decisions).set({ undoneAt: Date.now() }).where(eq(decisions.id, decisionId));
    if (decision.action === "accept") return void (await close);
    const row = await this.row(decision.sourceId);
    const others = (await this.decisions(decision.sourceId)).filter(
      (other) => other.id !== decisionId && other.action === "leaveOut" && other.undoneAt === null,
    );
    const { statements } = await this.effective(
      row,
      new Set(others.flatMap((other) => other.times)),
      "undo",
      `counts again: ${decision.text}`,
    );
    await this.db.batch([close, ...statements]);
  }

  /** Goes back to the bars before a change; what came after it is part of the record. */
  async revert(changeId: number): Promise<void> {
    const [change] = await this.db.select().from(sourceChanges).where(eq(sourceChanges.id, changeId));
    if (change === undefined) return refuse("change", "there is no such change", 404);
    if (change.rawBefore === null) return refuse("change", "nothing was there before this change");
    const row = await this.row(change.sourceId);
    if (row.rawHash !== change.rawAfter) return refuse("change", "the source has changed since; only its newest change can be taken back");
    const statements = await this.replaceStatements(row, change.rawBefore, {
      what: "undo",
      added: -change.added,
      changed: change.changed,
      rejected: 0,
      note: `back to the bars before ${new Date(change.at).toISOString()}`,
    });
    const [first, ...rest] = statements;
    await this.db.batch([first, ...rest]);
  }

  /** The statements that make stored raw bars those of a source, its corrections applied, and record it. */
  async replaceStatements(
    row: typeof sources.$inferSelect,
    rawHash: string,
    change: { what: string; added: number; changed: number; rejected: number; note: string },
  ): Promise<BatchItem<"sqlite">[]> {
    const { hash: barsHash, statements } = await this.counting(row.marketId, row.timeframe, rawHash, await this.leftOut(row.id));
    const now = Date.now();
    return [
      ...statements,
      this.db.update(sources).set({ rawHash, barsHash, updatedAt: now }).where(eq(sources.id, row.id)),
      this.db.insert(sourceChanges).values({ sourceId: row.id, at: now, rawBefore: row.rawHash, rawAfter: rawHash, ...change }),
    ];
  }

  /**
   * The bars of a source that count: without those that corrections leave out, and without those behind the market's seal.
   * This is where the seal cuts; what reaches behind it is marked, and no reader is given it. `bars`: the raw ones, where
   * they are not stored yet.
   */
  async counting(
    marketId: number,
    timeframe: string,
    rawHash: string,
    times: ReadonlySet<number>,
    bars?: Bars,
  ): Promise<{ hash: string; count: number | null; last: number | null; statements: BatchItem<"sqlite">[] }> {
    const seal = await sealOf(this.db, marketId);
    if (seal === null && times.size === 0) return { hash: rawHash, count: null, last: null, statements: [] };
    const raw = bars ?? (await this.bars.opened(rawHash));
    const whole = withoutTimes(raw, times);
    const open = seal === null ? whole : beforeSeal(whole, timeframe, seal);
    if (open.length === 0 && seal !== null)
      return refuse("source", `every bar lies behind the seal of ${seal.from}; there is nothing to work with`);
    // nothing left is for the caller to say
    if (open.length === 0) return { hash: rawHash, count: 0, last: null, statements: [] };
    const found = { count: open.length, last: open.time[open.length - 1] };
    // what counts may be read, though a set of the same bars was behind an earlier seal
    if (open.length === raw.length) return { hash: rawHash, ...found, statements: [markOpen(this.db, rawHash)] };
    const stored = await storeBars(this.db, open);
    const sealing = open.length === whole.length ? [] : [markSealed(this.db, [rawHash])];
    return { hash: stored.hash, ...found, statements: [...stored.statements, markOpen(this.db, stored.hash), ...sealing] };
  }

  private async effective(row: typeof sources.$inferSelect, times: ReadonlySet<number>, what: string, note: string) {
    const { hash, statements, count } = await this.counting(row.marketId, row.timeframe, row.rawHash, times);
    if (count !== null && count < 2) return refuse("finding", "fewer than two bars would be left");
    const now = Date.now();
    return {
      statements: [
        ...statements,
        this.db.update(sources).set({ barsHash: hash, updatedAt: now }).where(eq(sources.id, row.id)),
        this.db.insert(sourceChanges).values({
          sourceId: row.id,
          at: now,
          what,
          added: 0,
          changed: 0,
          rejected: 0,
          rawBefore: row.rawHash,
          rawAfter: row.rawHash,
          note,
        }),
      ] as BatchItem<"sqlite">[],
    };
  }
}
