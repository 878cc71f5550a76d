import { asc, desc, eq, inArray, type SQL } from "drizzle-orm";
import { ENGINE_VERSION, hashOf, type Settings } from "#core/documents";
import { PROBES, type ProbeInput, type ProbeOutcome } from "#core/probes";
import type { Database } from "./db/open";
import { overrulings, probeResults, probes, strategies, versions } from "./db/schema";
import type { JobProgress } from "./jobs/protocol";
import type { JobRunner } from "./jobs/runner";
import type { Evidence } from "./layers";
import { settingsState, type Markets } from "./markets";
import { readOutcome } from "./probe-outcome";

/** Why a failure was gone on with, and who did. */
export interface Overruling {
  reason: string;
  name: string;
  at: number;
}

export interface ProbeView {
  id: number;
  versionId: number;
  versionNumber: number;
  strategyId: number;
  strategyName: string;
  kind: string;
  name: string;
  question: string;
  caution: string;
  /** `others`: the bars beside its own that the newest result rests on */
  input: { settings: Settings; probe: ProbeInput; others?: { symbol: string; bars: string }[] };
  criteriaSetAt: number;
  outcome: ProbeOutcome | null;
  ranAt: number | null;
  state: Evidence;
  /** why the state is out of date, or null */
  why: string | null;
  /** of the result at hand, where it failed */
  overruled: Overruling | null;
  /** where it is being computed, or was left off */
  job: JobProgress | null;
  /** results that newer ones replaced, the newest first */
  earlier: { ranAt: number; verdict: ProbeOutcome["verdict"]; said: string; asked: ProbeInput["criteria"] }[];
}

/** The fingerprint of what a result rests on. */
export const basisOf = (versionHash: string, input: unknown): string => hashOf({ versionHash, input });

/** Probes as pages show them, each held against what it rests on as that is now. */
export class ProbeViews {
  constructor(
    private readonly db: Database,
    private readonly markets: Markets,
    private readonly jobs: JobRunner,
  ) {}

  async views(where: SQL | undefined): Promise<ProbeView[]> {
    const rows = await this.db
      .select()
      .from(probes)
      .innerJoin(versions, eq(versions.id, probes.versionId))
      .innerJoin(strategies, eq(strategies.id, versions.strategyId))
      .where(where)
      .orderBy(desc(versions.id), asc(probes.id));
    if (rows.length === 0) return [];
    const ids = rows.map((row) => row.probes.id);
    const jobIds = rows.flatMap((row) => row.probes.jobId ?? []);
    const [overruled, results, progress] = await Promise.all([
      this.db.select().from(overrulings).where(inArray(overrulings.probeId, ids)).orderBy(asc(overrulings.id)),
      this.db.select().from(probeResults).where(inArray(probeResults.probeId, ids)).orderBy(desc(probeResults.id)),
      jobIds.length === 0 ? [] : this.jobs.progress(jobIds),
    ]);
    return Promise.all(
      rows.map(async (row): Promise<ProbeView> => {
        const input = JSON.parse(row.probes.input) as ProbeView["input"];
        const entry = PROBES.get(row.probes.kind)!;
        const outcome = row.probes.outcome === null ? null : readOutcome(JSON.parse(row.probes.outcome));
        const why = outcome === null ? null : await this.outdated(row.probes, row.versions, input);
        const state = outcome === null ? "untested" : why !== null ? "out of date" : outcome.verdict;
        const over = overruled.filter((one) => one.probeId === row.probes.id && one.basis === row.probes.basis).at(-1);
        return {
          id: row.probes.id,
          versionId: row.versions.id,
          versionNumber: row.versions.number,
          strategyId: row.strategies.id,
          strategyName: row.strategies.name,
          kind: entry.kind,
          name: entry.name,
          question: entry.question,
          caution: entry.caution,
          input,
          criteriaSetAt: row.probes.criteriaSetAt,
          outcome,
          ranAt: row.probes.ranAt,
          state,
          why,
          overruled: state === "failed" && over !== undefined ? { reason: over.reason, name: over.name, at: over.at } : null,
          job: progress.find((job) => job.id === row.probes.jobId) ?? null,
          earlier: results
            .filter((result) => result.probeId === row.probes.id && result.ranAt !== row.probes.ranAt)
            .map((result) => {
              const { verdict, said } = readOutcome(JSON.parse(result.outcome));
              return { ranAt: result.ranAt, verdict, said, asked: (JSON.parse(result.input) as ProbeView["input"]).probe.criteria };
            }),
        };
      }),
    );
  }

  private async outdated(
    row: typeof probes.$inferSelect,
    version: typeof versions.$inferSelect,
    input: ProbeView["input"],
  ): Promise<string | null> {
    if (basisOf(version.hash, input) !== row.basis) return "its criteria or inputs were changed after it ran";
    // results of before 0.7.0 do not say which engine they are from
    if (row.engine !== null && row.engine !== ENGINE_VERSION) return "the engine has changed since";
    const { gone, changed } = await settingsState(this.markets, [...input.settings.markets, ...(input.others ?? [])]);
    if (gone.length > 0) return `the market ${gone.join(", ")} was deleted since`;
    if (changed.length > 0) return `the bars of ${changed.join(", ")} have changed since`;
    const now = version.settings === null ? null : (JSON.parse(version.settings) as Settings);
    if (now !== null && sameMarkets(now, input.settings) && JSON.stringify(now.costs) !== JSON.stringify(input.settings.costs))
      return "the version's costs have changed since";
    return null;
  }
}

const sameMarkets = (a: Settings, b: Settings): boolean =>
  a.markets.map((market) => market.symbol).join() === b.markets.map((market) => market.symbol).join();
