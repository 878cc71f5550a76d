import { and, eq, isNull } from "drizzle-orm";
import type { BatchItem } from "drizzle-orm/batch";
import type { Logger } from "pino";
import { guessCsv } from "#core/bars";
import { storeStatements } from "./bar-store";
import type { Database } from "./db/open";
import { imports, markets, preferences, sources } from "./db/schema";
import type { ImportReport } from "./importing/stream";
import type { ImportTarget } from "./importing/imports";
import type { JobKind } from "./jobs/protocol";
import type { JobRunner } from "./jobs/runner";
import { refuse } from "./problem";
import { sealStored } from "./seal-cut";
import type { Sources } from "./sources";
import type { UpdateInput, UpdateItem, UpdateOutput } from "./update-stream";

/** Where the data service is, and how often it is asked. */
export interface UpdateChoice {
  url: string;
  /** minutes between two updates; null for by hand only */
  every: number | null;
}

export const UPDATE_STEPS = [1, 5, 15, 60, 240, 1440] as const;
const DEFAULT: UpdateChoice = { url: `http://127.0.0.1:${process.env.CANYON_FEED_PORT ?? 5078}`, every: null };

/** Brings served sources up to date, by button and on a schedule. */
export class Updates {
  private timer: NodeJS.Timeout | null = null;

  constructor(
    private readonly db: Database,
    private readonly sources: Sources,
    private readonly jobs: JobRunner,
    private readonly log: Logger,
  ) {}

  async choice(): Promise<UpdateChoice> {
    const [row] = await this.db.select().from(preferences).where(eq(preferences.key, "updates"));
    return row === undefined ? DEFAULT : (JSON.parse(row.value) as UpdateChoice);
  }

  /** Changes address and schedule. */
  async choose(choice: UpdateChoice): Promise<void> {
    let url: URL;
    try {
      url = new URL(choice.url);
    } catch {
      return refuse("url", "write an address such as http://127.0.0.1:5078");
    }
    if (!["http:", "https:"].includes(url.protocol)) return refuse("url", "the address must begin with http:// or https://");
    if (choice.every !== null && !(UPDATE_STEPS as readonly number[]).includes(choice.every))
      return refuse("every", `choose one of ${UPDATE_STEPS.join(", ")} minutes`);
    const value = JSON.stringify({ url: url.href.replace(/\/$/, ""), every: choice.every });
    await this.db.insert(preferences).values({ key: "updates", value }).onConflictDoUpdate({ target: preferences.key, set: { value } });
    await this.schedule();
  }

  /** Sets the next scheduled update going. */
  async schedule(): Promise<void> {
    this.stop();
    const { every } = await this.choice();
    if (every === null) return;
    this.timer = setInterval(() => {
      this.start().catch((error: unknown) => this.log.error({ error }, "a scheduled update could not start"));
    }, every * 60_000);
    this.timer.unref();
  }

  stop(): void {
    if (this.timer !== null) clearInterval(this.timer);
    this.timer = null;
  }

  /** Queues an update of all served sources, or of those of one market; one that is under way already is not queued again. */
  async start(symbol: string | null = null): Promise<number | null> {
    const { url } = await this.choice();
    const rows = await this.db
      .select({ id: sources.id, name: sources.name, timeframe: sources.timeframe, symbol: markets.symbol })
      .from(sources)
      .innerJoin(markets, eq(markets.id, sources.marketId))
      .where(and(eq(sources.served, 1), isNull(markets.deletedAt)));
    const items: UpdateItem[] = rows
      .filter((row) => symbol === null || row.symbol === symbol)
      .map((row) => ({ sourceId: row.id, symbol: row.symbol, source: row.name, timeframe: row.timeframe }));
    if (items.length === 0)
      return refuse(
        "market",
        symbol === null ? "no source comes from the data service" : `no source of ${symbol} comes from the data service`,
      );
    const running = (await this.jobs.progress()).find((job) => job.kind === "update");
    if (running !== undefined) return running.id;
    const id = Number((await this.db.$client.execute("SELECT COALESCE(MAX(id), 0) + 1 AS next FROM jobs")).rows[0].next);
    const input: UpdateInput = { url, items };
    await this.jobs.queue({
      id,
      kind: "update",
      title: symbol === null ? "Update all markets" : `Update ${symbol}`,
      input,
      total: items.length,
      chunkSize: 1,
    });
    this.jobs.nudge();
    return id;
  }

  /** How an update ends for one source: new bars count at once, revised ones wait for the trader. */
  kind(): JobKind<UpdateInput, UpdateOutput> {
    return {
      kind: "update",
      lane: "data",
      data: () => [],
      commit: async (_jobId, _input, { item, stored }) =>
        (await sealStored(this.db, item.symbol, stored)).flatMap((bars) => storeStatements(this.db, bars)),
      // a crash before this leaves the source as it was; the next update starts from there
      after: async (jobId, _input, output) => {
        const { item, failed, base, added, changed, rejected, newOnly, all } = output;
        const mark = (problem: string | null) =>
          this.db
            .update(sources)
            .set(problem === null ? { checkedAt: Date.now(), checkProblem: null } : { checkProblem: problem })
            .where(eq(sources.id, item.sourceId));
        const row = await this.sources.row(item.sourceId);
        // somebody imported meanwhile: the next update starts from there
        if (failed !== null || row.rawHash !== base) return void (await mark(failed));
        const statements: BatchItem<"sqlite">[] = [];
        if (added > 0)
          statements.push(
            ...(await this.sources.replaceStatements(row, newOnly!, {
              what: "update",
              added,
              changed: 0,
              rejected,
              note: changed > 0 ? `${changed} revised bars wait to be looked at` : "",
            })),
          );
        if (changed > 0 && all !== newOnly && !(await this.shownBefore(output)))
          statements.push(this.waiting(jobId, output, newOnly!, all!));
        await this.db.batch([mark(null), ...statements]);
      },
    };
  }

  /** Whether the same revisions wait already, or were looked at and declined. */
  private async shownBefore({ item, changes }: UpdateOutput): Promise<boolean> {
    const rows = await this.db.select().from(imports).where(isNull(imports.uploadId));
    const told = JSON.stringify(changes);
    return rows.some((row) => {
      const target = JSON.parse(row.target) as ImportTarget;
      if (row.report === null || target.market !== item.symbol || target.source !== item.source) return false;
      return JSON.stringify((JSON.parse(row.report) as ImportReport).changes) === told;
    });
  }

  /** Revised bars as an import that waits for the trader. */
  private waiting(jobId: number, output: UpdateOutput, base: string, all: string): BatchItem<"sqlite"> {
    const { item, changed, changes, rejected, problems } = output;
    const target: ImportTarget = {
      market: item.symbol,
      create: null,
      source: item.source,
      format: { ...guessCsv("").format, timeframe: item.timeframe },
      leaveOut: true,
      takeChanges: false,
    };
    const report: ImportReport = {
      fatal: null,
      timeframe: item.timeframe,
      count: changed,
      first: changes[0].time,
      last: changes[changes.length - 1].time,
      rejected,
      problems,
      added: 0,
      changed,
      same: 0,
      changes,
      base,
      all,
      newOnly: base,
    };
    return this.db
      .insert(imports)
      .values({ jobId, target: JSON.stringify(target), state: "ready", report: JSON.stringify(report), createdAt: Date.now() });
  }
}
