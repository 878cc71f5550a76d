import { eq } from "drizzle-orm";
import type { Logger } from "pino";
import { ENGINE_VERSION, type Settings } from "#core/documents";
import type { AuditOutcome, LookAheadAudit } from "#core/runs";
import type { Database } from "./db/open";
import { versions } from "./db/schema";
import type { ExtraSeriesStore } from "./extra-series";
import type { ChunkExecutor } from "./jobs/protocol";
import { Refused, refuse } from "./problem";
import type { VersionView } from "./strategies";

/** An audit as it is kept with its version. */
export interface StoredAudit extends LookAheadAudit {
  /** symbols of the markets that it ran on */
  markets: string[];
  engine: string;
  at: number;
}

/** Runs the audit for looking ahead of a version, off the main thread, and keeps what it found. */
export class Audits {
  constructor(
    private readonly db: Database,
    private readonly executor: ChunkExecutor,
    private readonly series: ExtraSeriesStore,
    private readonly log: Logger,
  ) {}

  /** Audits a version that was just saved, while the page goes on; where it can't be, the version stays untested. */
  begin(version: VersionView): void {
    if (version.settings === null) return;
    this.run(version).catch((error: unknown) => this.log.warn({ version: version.id, error: String(error) }, "the audit did not run"));
  }

  /** Audits a version on the run settings that it was last looked at with. Refuses where there are none, or they do not fit. */
  async run(version: VersionView): Promise<StoredAudit> {
    if (version.settings === null) return refuse("settings", "the version was not looked at on any market yet; open it and choose one");
    const settings = (await this.series.complete(version.settings, [version.strategy])) as Settings;
    const input = { strategy: version.strategy, settings };
    const outcome = (await this.executor.run({ jobId: 0, kind: "audit", input, data: [], chunk: 0, from: 0, to: 1 })) as AuditOutcome;
    if (outcome.audit === null)
      throw new Refused(outcome.problems.map(({ in: where, path, message }) => ({ path: `${where}.${path}`, message })));
    const audit: StoredAudit = {
      ...outcome.audit,
      markets: settings.markets.map((market) => market.symbol),
      engine: ENGINE_VERSION,
      at: Date.now(),
    };
    await this.db
      .update(versions)
      .set({ audit: JSON.stringify(audit) })
      .where(eq(versions.id, version.id));
    return audit;
  }
}
