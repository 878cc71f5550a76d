import { eq } from "drizzle-orm";
import { createHash } from "node:crypto";
import { gunzipSync, gzipSync } from "node:zlib";
import type { MarketSpec } from "#core/bars";
import { QUALITY_VERSION, type Finding, type QualityReport, type SourceComparison } from "#core/quality";
import type { Database } from "./db/open";
import { qualityReports } from "./db/schema";
import type { ChunkExecutor } from "./jobs/protocol";
import type { MarketView, SourceView } from "./markets";
import { refuse } from "./problem";
import type { QualityInput } from "./quality-stream";
import type { Decision, Sources } from "./sources";

/** A finding with what was decided on it. */
export interface JudgedFinding extends Finding {
  decision: Decision | null;
}

export interface JudgedReport extends Omit<QualityReport, "findings"> {
  findings: JudgedFinding[];
  /** decisions on findings that are not there any more, since their bars are left out or the data changed */
  settled: Decision[];
}

/** Quality reports and comparisons, computed off the main thread and kept by what they looked at. */
export class QualityReports {
  private readonly making = new Map<string, Promise<unknown>>();

  constructor(
    private readonly db: Database,
    private readonly sources: Sources,
    private readonly executor: ChunkExecutor,
  ) {}

  private async kept<T>(input: QualityInput): Promise<T> {
    const key = createHash("sha256")
      .update(JSON.stringify([QUALITY_VERSION, input]))
      .digest("hex");
    const [known] = await this.db.select().from(qualityReports).where(eq(qualityReports.key, key));
    if (known !== undefined) return JSON.parse(gunzipSync(known.report).toString()) as T;
    let making = this.making.get(key);
    if (making === undefined) {
      making = this.executor
        .run({ jobId: 0, kind: "quality", input, data: [], chunk: 0, from: 0, to: 1 })
        .then(async (report) => {
          await this.db
            .insert(qualityReports)
            .values({ key, report: gzipSync(JSON.stringify(report)) })
            .onConflictDoNothing();
          return report;
        })
        .finally(() => this.making.delete(key));
      this.making.set(key, making);
    }
    return (await making) as T;
  }

  /** What the checks find in the bars of a source that count, each with its decision. */
  async report(source: SourceView, spec: MarketSpec): Promise<JudgedReport> {
    const [report, decisions] = await Promise.all([
      this.kept<QualityReport>({ timeframe: source.timeframe, spec, hash: source.barsHash, other: null }),
      this.sources.decisions(source.id),
    ]);
    const inForce = decisions.filter((decision) => decision.undoneAt === null);
    const byFinding = new Map(inForce.map((decision) => [decision.finding, decision]));
    const present = new Set(report.findings.map((finding) => finding.key));
    return {
      ...report,
      findings: report.findings.map((finding) => ({ ...finding, decision: byFinding.get(finding.key) ?? null })),
      settled: inForce.filter((decision) => !present.has(decision.finding)),
    };
  }

  /** Two sources of one market set beside each other. */
  async compare(market: MarketView, a: SourceView, b: SourceView): Promise<SourceComparison> {
    if (a.timeframe !== b.timeframe)
      return refuse(
        "source",
        `${a.name} has ${a.timeframe} bars and ${b.name} ${b.timeframe}; only sources of one timeframe can be compared`,
      );
    return this.kept<SourceComparison>({ timeframe: a.timeframe, spec: market.spec, hash: a.barsHash, other: b.barsHash });
  }
}
