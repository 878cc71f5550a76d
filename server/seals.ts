import { desc, eq, inArray } from "drizzle-orm";
import type { BatchItem } from "drizzle-orm/batch";
import { formatDate, parseDate, withoutTimes } from "#core/bars";
import type { Settings } from "#core/documents";
import { storeBars, type BarCache } from "./bar-store";
import type { Database } from "./db/open";
import { barSets, markets, sealOpenings, seals, sourceChanges, sources, strategies, versions } from "./db/schema";
import type { MarketView } from "./markets";
import { Refused, refuse } from "./problem";
import { markSealed } from "./seal-cut";
import type { Sources } from "./sources";

/** A look behind a seal. */
export interface Opening {
  id: number;
  symbol: string;
  /** null where the seal itself was moved on */
  version: { strategyId: number; name: string; number: number } | null;
  from: string;
  to: string;
  reason: string;
  name: string;
  at: number;
}

/** The last stretches of markets, which nobody looks at until a hold-out probe opens them. */
export class Seals {
  constructor(
    private readonly db: Database,
    private readonly bars: BarCache,
    private readonly sources: Sources,
  ) {}

  /** First sealed date by market. */
  async all(): Promise<Map<number, string>> {
    const rows = await this.db.select().from(seals);
    return new Map(rows.map((row) => [row.marketId, row.fromDate]));
  }

  /** Every look behind a seal, of one market or of all, the newest first. */
  async openings(marketId?: number): Promise<Opening[]> {
    const rows = await this.db
      .select()
      .from(sealOpenings)
      .innerJoin(markets, eq(markets.id, sealOpenings.marketId))
      .leftJoin(versions, eq(versions.id, sealOpenings.versionId))
      .leftJoin(strategies, eq(strategies.id, versions.strategyId))
      .where(marketId === undefined ? undefined : eq(sealOpenings.marketId, marketId))
      .orderBy(desc(sealOpenings.id));
    return rows.map(({ seal_openings: row, markets: market, versions: version, strategies: strategy }) => ({
      id: row.id,
      symbol: market.symbol,
      version: version === null || strategy === null ? null : { strategyId: strategy.id, name: strategy.name, number: version.number },
      from: row.fromDate,
      to: row.toDate,
      reason: row.reason,
      name: row.name,
      at: row.at,
    }));
  }

  /** Seals a market from a date on, or moves its seal on to a later date, which is recorded as opening what it leaves. */
  async seal(market: MarketView, from: string, opening: { reason: string; name: string } | null = null): Promise<void> {
    const date = parseDate(from);
    if (date === null) return refuse("from", "must be a date, YYYY-MM-DD");
    const first = Math.max(...market.sources.map((source) => source.firstTime));
    if (date * 86_400_000 <= first)
      return refuse(
        "from",
        `the bars begin on ${formatDate(Math.floor(first / 86_400_000))}; a seal from ${from} on would leave nothing to work with`,
      );
    const [before] = await this.db.select().from(seals).where(eq(seals.marketId, market.id));
    if (before !== undefined && from < before.fromDate)
      return refuse(
        "from",
        `${market.symbol} is sealed from ${before.fromDate} on; what lies before it was seen, and can't be sealed any more`,
      );
    if (before !== undefined && from === before.fromDate) return;
    if (before === undefined && (await this.seenBehind(market, date)))
      return refuse("from", `results that are stored saw bars of ${market.symbol} after ${from}; choose a date that nothing has seen yet`);
    if (before !== undefined) checkOpening(opening);
    const now = Date.now();
    const rows = await this.db.select().from(sources).where(eq(sources.marketId, market.id));
    const setting: BatchItem<"sqlite"> = this.db
      .insert(seals)
      .values({ marketId: market.id, fromDate: from, sealedAt: now })
      .onConflictDoUpdate({ target: seals.marketId, set: { fromDate: from } });
    // the cut follows the seal as it stands, so the seal is set first; what is written by halves is made up for at the next start
    await this.db.batch([
      setting as never,
      ...(before === undefined
        ? []
        : [
            this.db.insert(sealOpenings).values({
              marketId: market.id,
              versionId: null,
              fromDate: before.fromDate,
              toDate: formatDate(date - 1),
              reason: opening!.reason.trim(),
              name: opening!.name.trim(),
              at: now,
            }),
          ]),
    ]);
    for (const row of rows) await this.cut(row, `sealed from ${from} on`);
  }

  /** Cuts a source's counting bars at its market's seal. */
  private async cut(row: typeof sources.$inferSelect, note: string): Promise<void> {
    const { hash, last, statements } = await this.sources.counting(
      row.marketId,
      row.timeframe,
      row.rawHash,
      await this.sources.leftOut(row.id),
    );
    if (hash === row.barsHash) return;
    const changes = await this.db.select().from(sourceChanges).where(eq(sourceChanges.sourceId, row.id));
    const history = [row.rawHash, row.barsHash, ...changes.flatMap((change) => [change.rawBefore ?? row.rawHash, change.rawAfter])];
    // a set of this source with a later bar than what counts reaches behind the seal
    const sets = await this.db.select({ hash: barSets.hash, last: barSets.lastTime }).from(barSets).where(inArray(barSets.hash, history));
    const behind = sets.filter((set) => set.hash !== hash && last !== null && set.last > last).map((set) => set.hash);
    await this.db.batch([
      ...(statements as [never]),
      markSealed(this.db, behind),
      this.db.update(sources).set({ barsHash: hash, updatedAt: Date.now() }).where(eq(sources.id, row.id)),
      this.db.insert(sourceChanges).values({
        sourceId: row.id,
        at: Date.now(),
        what: "seal",
        added: 0,
        changed: 0,
        rejected: 0,
        rawBefore: row.rawHash,
        rawAfter: row.rawHash,
        note,
      }),
    ]);
    this.bars.forget(behind);
  }

  /** Finishes cuts that a sudden end left undone. */
  async finish(): Promise<void> {
    const rows = await this.db
      .select({ source: sources, from: seals.fromDate })
      .from(seals)
      .innerJoin(sources, eq(sources.marketId, seals.marketId));
    for (const { source, from } of rows) await this.cut(source, `sealed from ${from} on`);
  }

  /** Whether anything that is stored ran on bars of a market behind a date. */
  private async seenBehind(market: MarketView, date: number): Promise<boolean> {
    const behind = market.sources.filter((source) => source.lastTime >= date * 86_400_000).map((source) => source.barsHash);
    for (const table of ["runs", "optimizations", "probes"])
      for (const hash of behind) {
        const column = table === "probes" ? "input" : "settings";
        const { rows } = await this.db.$client.execute({
          sql: `SELECT 1 FROM ${table} WHERE ${column} LIKE ? LIMIT 1`,
          args: [`%${hash}%`],
        });
        if (rows.length > 0) return true;
      }
    return false;
  }

  /** The run settings of the hold-out: from the latest of the markets' seals to their last bars. Empty where none is sealed. */
  async behind(settings: Settings, own: readonly MarketView[]): Promise<{ name: string; settings: Settings }[]> {
    const all = await this.all();
    const dates = own.flatMap((market) => all.get(market.id) ?? []);
    if (dates.length === 0) return [];
    const hashes = await Promise.all(settings.markets.map((market, m) => this.wholeHash(market.bars, own[m])));
    return [
      {
        name: "behind the seal",
        settings: {
          ...settings,
          from: dates.sort().at(-1)!,
          to: null,
          markets: settings.markets.map((market, m) => ({ ...market, bars: hashes[m] })),
        },
      },
    ];
  }

  /** Bars of a market's source with what lies behind the seal, corrections applied; stored as sealed. */
  private async wholeHash(barsHash: string, market: MarketView): Promise<string> {
    const view = market.sources.find((source) => source.barsHash === barsHash) ?? market.sources.find((source) => source.isDefault)!;
    const times = await this.sources.leftOut(view.id);
    if (times.size === 0) return view.rawHash;
    const stored = await storeBars(this.db, withoutTimes(await this.bars.opened(view.rawHash), times));
    const [first, ...rest] = stored.statements;
    await this.db.batch([first, ...rest, markSealed(this.db, [stored.hash])]);
    return stored.hash;
  }

  /** The statements that record a look behind the seals of run settings' markets, for good. */
  async openingStatements(
    versionId: number,
    sealed: Settings,
    own: readonly MarketView[],
    opening: { reason: string; name: string },
  ): Promise<BatchItem<"sqlite">[]> {
    checkOpening(opening);
    const all = await this.all();
    const now = Date.now();
    const out: BatchItem<"sqlite">[] = [];
    for (const [m, market] of own.entries()) {
      if (!all.has(market.id)) continue;
      const [set] = await this.db.select({ last: barSets.lastTime }).from(barSets).where(eq(barSets.hash, sealed.markets[m].bars));
      out.push(
        this.db.insert(sealOpenings).values({
          marketId: market.id,
          versionId,
          fromDate: sealed.from!,
          toDate: formatDate(Math.floor(set.last / 86_400_000)),
          reason: opening.reason.trim(),
          name: opening.name.trim(),
          at: now,
        }),
      );
    }
    return out;
  }
}

/** An opening needs a reason and a name, since both stay with it for good. */
function checkOpening(opening: { reason: string; name: string } | null): asserts opening is { reason: string; name: string } {
  const problems = [
    ...(opening === null || opening.reason.trim() === ""
      ? [{ path: "reason", message: "say why the seal is opened; the reason stays with it for good" }]
      : []),
    ...(opening === null || opening.name.trim() === "" ? [{ path: "name", message: "say who opens the seal" }] : []),
  ];
  if (problems.length > 0) throw new Refused(problems);
}

export { checkOpening };
