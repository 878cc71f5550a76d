import { asc, desc, eq, isNull } from "drizzle-orm";
import { hashOf, readSettings, type DocumentProblem, type Settings } from "#core/documents";
import { PROBES, type ProbeOutcome } from "#core/probes";
import type { BarCache } from "./bar-store";
import type { Database } from "./db/open";
import { ledger, probes, strategies, versions } from "./db/schema";
import { settingsState, type Markets } from "./markets";
import type { ExtraSeriesStore } from "./extra-series";
import { Refused, refuse } from "./problem";
import type { Strategies, VersionView } from "./strategies";

/** The states of evidence. */
export type Evidence = "untested" | "passed" | "failed" | "out of date";

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
  input: { settings: Settings; probe: unknown };
  criteriaSetAt: number;
  outcome: ProbeOutcome | null;
  ranAt: number | null;
  state: Evidence;
  /** why the state is out of date, or null */
  why: string | null;
}

export class Probes {
  constructor(
    private readonly db: Database,
    private readonly bars: BarCache,
    private readonly markets: Markets,
    private readonly strategies: Strategies,
    private readonly series: ExtraSeriesStore,
  ) {}

  private read(kind: string, given: unknown, settingsGiven: unknown): { settings: Settings; probe: unknown } {
    const entry = PROBES.get(kind) ?? refuse("kind", `there is no probe “${kind}”`);
    const probe = entry.read(given);
    const settings = readSettings(settingsGiven);
    const problems: DocumentProblem[] = [...probe.problems, ...settings.problems.map((p) => ({ ...p, path: `settings.${p.path}` }))];
    if (probe.value === null || settings.value === null) throw new Refused(problems);
    return { settings: settings.value, probe: probe.value };
  }

  /** Sets up a probe with its criteria; it has not run yet. */
  async create(version: VersionView, kind: string, given: unknown, settings: unknown): Promise<number> {
    const input = this.read(kind, given, await this.series.complete(settings, [version.strategy]));
    const now = Date.now();
    const [row] = await this.db
      .insert(probes)
      .values({ versionId: version.id, kind, input: JSON.stringify(input), criteriaSetAt: now, createdAt: now })
      .returning({ id: probes.id });
    return row.id;
  }

  /** Changes criteria or inputs. A result that is there stays, and is out of date from now on. */
  async change(id: number, given: unknown): Promise<void> {
    const probe = await this.get(id);
    if (probe === null) return refuse("probe", "there is no such probe", 404);
    const input = this.read(probe.kind, given, probe.input.settings);
    if (JSON.stringify(input) === JSON.stringify(probe.input)) return;
    await this.db
      .update(probes)
      .set({ input: JSON.stringify(input), criteriaSetAt: Date.now() })
      .where(eq(probes.id, id));
  }

  private basis = (versionHash: string, input: unknown): string => hashOf({ versionHash, input });

  /** Runs a probe on the newest bars of its markets and stores the outcome with what it rests on. */
  async run(id: number): Promise<void> {
    const probe = await this.get(id);
    if (probe === null) return refuse("probe", "there is no such probe", 404);
    const version = (await this.strategies.version(probe.versionId))!;
    const entry = PROBES.get(probe.kind)!;
    const settings: Settings = { ...probe.input.settings, markets: [] };
    for (const market of probe.input.settings.markets) {
      const now = await this.markets.bySymbol(market.symbol);
      if (now === null) return refuse("settings", `the market ${market.symbol} was deleted; bring it back or set up another probe`);
      settings.markets.push({ ...market, bars: now.barsHash });
    }
    const bars = await this.bars.all(settings.markets.map((market) => market.bars));
    const { outcome, problems } = entry.run(probe.input.probe, { strategy: version.strategy, settings, bars });
    if (outcome === null) throw new Refused([...problems]);
    const input = { settings, probe: probe.input.probe };
    const now = Date.now();
    const [{ spent }] = (await this.db.$client.execute({ sql: "SELECT COUNT(*) AS spent FROM ledger WHERE what = 'probe'", args: [] }))
      .rows as unknown as { spent: number }[];
    await this.db.batch([
      this.db
        .update(probes)
        .set({ input: JSON.stringify(input), basis: this.basis(version.hash, input), outcome: JSON.stringify(outcome), ranAt: now })
        .where(eq(probes.id, id)),
      this.db.insert(ledger).values({
        strategyId: version.strategyId,
        what: "probe",
        reference: spent + 1,
        count: 1,
        fromDate: settings.from,
        toDate: settings.to,
        at: now,
      }),
    ]);
  }

  async remove(id: number): Promise<void> {
    const probe = await this.get(id);
    if (probe !== null && probe.ranAt !== null) refuse("probe", "a probe that has run stays in the evidence");
    await this.db.delete(probes).where(eq(probes.id, id));
  }

  private async views(where: ReturnType<typeof eq> | undefined): Promise<ProbeView[]> {
    const rows = await this.db
      .select()
      .from(probes)
      .innerJoin(versions, eq(versions.id, probes.versionId))
      .innerJoin(strategies, eq(strategies.id, versions.strategyId))
      .where(where)
      .orderBy(desc(versions.id), asc(probes.id));
    return Promise.all(
      rows.map(async (row): Promise<ProbeView> => {
        const input = JSON.parse(row.probes.input) as ProbeView["input"];
        const entry = PROBES.get(row.probes.kind)!;
        const outcome = row.probes.outcome === null ? null : (JSON.parse(row.probes.outcome) as ProbeOutcome);
        const why = outcome === null ? null : await this.outdated(row.probes.basis, row.versions.hash, input);
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
          state: outcome === null ? "untested" : why !== null ? "out of date" : outcome.verdict,
          why,
        };
      }),
    );
  }

  private async outdated(basis: string | null, versionHash: string, input: ProbeView["input"]): Promise<string | null> {
    if (this.basis(versionHash, input) !== basis) return "its criteria or inputs were changed after it ran";
    const { gone, changed } = await settingsState(this.markets, input.settings);
    if (gone.length > 0) return `the market ${gone.join(", ")} was deleted since`;
    if (changed.length > 0) return `the bars of ${changed.join(", ")} have changed since`;
    return null;
  }

  async get(id: number): Promise<ProbeView | null> {
    return (await this.views(eq(probes.id, id)))[0] ?? null;
  }

  ofVersion(versionId: number): Promise<ProbeView[]> {
    return this.views(eq(probes.versionId, versionId));
  }

  all(): Promise<ProbeView[]> {
    return this.views(isNull(strategies.deletedAt) as ReturnType<typeof eq>);
  }

  /** Layers of evidence by version, oldest first. */
  async layers(): Promise<Map<number, Layer[]>> {
    const out = new Map<number, Layer[]>();
    for (const probe of await this.all()) out.set(probe.versionId, [...(out.get(probe.versionId) ?? []), layerOf(probe)]);
    return out;
  }
}

/** One layer of the strata. */
export interface Layer {
  name: string;
  state: Evidence;
  /** bars that the verdict rests on */
  weight: number;
  id: number;
}

export const layerOf = (probe: ProbeView): Layer => ({
  id: probe.id,
  name: probe.name,
  state: probe.state,
  weight: probe.outcome?.weight ?? 500,
});
