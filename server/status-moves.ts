import { desc, eq } from "drizzle-orm";
import type { Database } from "./db/open";
import { statusMoves, strategies, versions } from "./db/schema";
import { Refused } from "./problem";
import type { Evidence } from "./layers";
import type { Probes } from "./probes";
import { STATUSES, type Status } from "./status";
import type { VersionView } from "./strategies";

/** A deliberate move of a strategy's status. */
export interface StatusMove {
  id: number;
  versionNumber: number;
  before: Status;
  after: Status;
  reason: string;
  name: string;
  /** the layers that it rests on, as they stood */
  evidence: { probe: number; name: string; state: Evidence; overruled: boolean }[];
  at: number;
}

/** Statuses that a strategy has earned: a move to one of them names the evidence that it rests on. */
const EARNED: readonly Status[] = ["candidate", "survivor", "forward test"];

/** How strategies come to their status: by deliberate acts, with a reason, a name and the evidence. */
export class StatusMoves {
  constructor(
    private readonly db: Database,
    private readonly probes: Probes,
  ) {}

  /** Moves a strategy's status; what is wrong is refused at its place. */
  async move(version: VersionView, after: string, reason: string, name: string, probeIds: readonly number[]): Promise<void> {
    const [{ status: before }] = await this.db
      .select({ status: strategies.status })
      .from(strategies)
      .where(eq(strategies.id, version.strategyId));
    const named = (await this.probes.ofVersion(version.id)).filter((probe) => probeIds.includes(probe.id));
    const known = (STATUSES as readonly string[]).includes(after);
    const problems = [
      ...(known ? [] : [{ path: "status", message: `status must be one of ${STATUSES.join(", ")}` }]),
      ...(after === before ? [{ path: "status", message: `it is a ${before} already` }] : []),
      ...(reason.trim() === "" ? [{ path: "reason", message: "say why; the reason stays with the move" }] : []),
      ...(name.trim() === "" ? [{ path: "name", message: "say who moves it" }] : []),
      ...(EARNED.includes(after as Status) && named.length === 0
        ? [{ path: "evidence", message: `name at least one layer of evidence that “${after}” rests on` }]
        : []),
      ...named
        .filter((probe) => probe.state === "untested" || probe.state === "out of date")
        .map((probe) => ({ path: "evidence", message: `${probe.name} is ${probe.state}; nothing can rest on it` })),
      ...named
        .filter((probe) => probe.state === "failed" && probe.overruled === null && EARNED.includes(after as Status))
        .map((probe) => ({ path: "evidence", message: `${probe.name} failed; overrule it with a reason first, or leave it out` })),
    ];
    if (problems.length > 0) throw new Refused(problems);
    await this.db.batch([
      this.db.update(strategies).set({ status: after }).where(eq(strategies.id, version.strategyId)),
      this.db.insert(statusMoves).values({
        strategyId: version.strategyId,
        versionId: version.id,
        before,
        after,
        reason: reason.trim(),
        name: name.trim(),
        evidence: JSON.stringify(
          named.map(({ id, name: layer, state, overruled }) => ({ probe: id, name: layer, state, overruled: overruled !== null })),
        ),
        at: Date.now(),
      }),
    ]);
  }

  /** All moves of a strategy's line, the newest first. */
  async of(strategyId: number): Promise<StatusMove[]> {
    const rows = await this.db
      .select()
      .from(statusMoves)
      .innerJoin(versions, eq(versions.id, statusMoves.versionId))
      .where(eq(statusMoves.strategyId, strategyId))
      .orderBy(desc(statusMoves.id));
    return rows.map(({ status_moves: row, versions: version }) => ({
      id: row.id,
      versionNumber: version.number,
      before: row.before as Status,
      after: row.after as Status,
      reason: row.reason,
      name: row.name,
      evidence: JSON.parse(row.evidence) as StatusMove["evidence"],
      at: row.at,
    }));
  }
}
