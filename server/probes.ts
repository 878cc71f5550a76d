import { and, asc, eq, isNull } from "drizzle-orm";
import type { BatchItem } from "drizzle-orm/batch";
import { ENGINE_VERSION, readSettings, type Settings } from "#core/documents";
import { PROBES, readInput, type ProbeKind, type ProbeOutcome } from "#core/probes";
import type { Database } from "./db/open";
import { jobs as jobRows, ledger, overrulings, probeResults, probes, probeUnits, strategies, versions } from "./db/schema";
import type { ExtraSeriesStore } from "./extra-series";
import type { ChunkExecutor, JobKind, JobProgress } from "./jobs/protocol";
import type { JobRunner } from "./jobs/runner";
import { layerOf, type Layer } from "./layers";
import { symbolsOf } from "#core/settings";
import { barsFileName } from "./market-source";
import type { MarketView, Markets } from "./markets";
import { othersFor } from "./probe-others";
import { basisOf, ProbeViews, type ProbeView } from "./probe-views";
import { barsOfProbe, opensSeal, type ProbeCheck, type ProbeWork } from "./probe-work";
import { Refused, refuse } from "./problem";
import { checkOpening, type Seals } from "./seals";
import type { Strategies, VersionView } from "./strategies";

/** Chunks that a probe's units come in: as many as give a progress worth looking at. */
const CHUNKS = 48;

export class Probes {
  /** runs without a job; each is told apart from the others by a number below 0 */
  private atOnce = 0;

  private readonly evidence: ProbeViews;

  constructor(
    private readonly db: Database,
    private readonly markets: Markets,
    private readonly strategies: Strategies,
    private readonly series: ExtraSeriesStore,
    private readonly seals: Seals,
    private readonly executor: ChunkExecutor,
    private readonly jobs: JobRunner,
  ) {
    this.evidence = new ProbeViews(db, markets, jobs);
  }

  /** The part of its jobs that stays with the database. */
  kind(): JobKind<ProbeWork & { opening: { reason: string; name: string } | null }, unknown[]> {
    return {
      kind: "probe",
      lane: "compute",
      data: barsOfProbe,
      commit: async (jobId, _input, output, chunk) => [
        this.db.insert(probeUnits).values({ jobId, first: chunk, output: JSON.stringify(output) }),
      ],
      finish: async (jobId, input) => {
        const rows = await this.db.select().from(probeUnits).where(eq(probeUnits.jobId, jobId)).orderBy(asc(probeUnits.first));
        const outcome = await this.conclude(
          input,
          rows.flatMap((row) => JSON.parse(row.output) as unknown[]),
        );
        return [...(await this.writing(input, outcome, input.opening)), this.db.delete(probeUnits).where(eq(probeUnits.jobId, jobId))];
      },
      abandon: (jobId) => [this.db.delete(probeUnits).where(eq(probeUnits.jobId, jobId))],
    };
  }

  private kindOf(kind: string): ProbeKind {
    return PROBES.get(kind) ?? refuse("kind", `there is no probe “${kind}”`);
  }

  private read(kind: string, given: unknown, settingsGiven: unknown): ProbeView["input"] {
    const probe = readInput(this.kindOf(kind), given);
    const settings = readSettings(settingsGiven);
    const problems = [...probe.problems, ...settings.problems.map((p) => ({ ...p, path: `settings.${p.path}` }))];
    if (probe.value === null || settings.value === null) throw new Refused(problems);
    return { settings: settings.value, probe: probe.value };
  }

  /** Everything that a probe rests on, on the newest bars of its markets. */
  private async work(
    probeId: number,
    kind: string,
    version: VersionView,
    { settings: given, probe }: ProbeView["input"],
  ): Promise<ProbeWork> {
    const settings: Settings = { ...given, markets: [] };
    for (const market of given.markets) {
      const now = await this.markets.bySymbol(market.symbol);
      if (now === null) return refuse("settings", `the market ${market.symbol} was deleted; bring it back or set up another probe`);
      const held = now.sources.some((source) => source.barsHash === market.bars);
      const same =
        now.sources.find((source) => source.timeframe === market.timeframe && source.isDefault) ??
        now.sources.find((source) => source.timeframe === market.timeframe);
      settings.markets.push({ ...market, bars: held ? market.bars : (same?.barsHash ?? now.barsHash) });
    }
    const others = await othersFor(kind, probe, settings, version.strategy.timeframe, this.markets, this.seals);
    return { probeId, kind, input: probe, strategy: version.strategy, settings, others };
  }

  /** What is wrong with a probe before it runs, and what it costs. */
  private look(work: ProbeWork, measured: boolean): Promise<ProbeCheck> {
    return this.executor.run({
      jobId: 0,
      kind: "probe-check",
      // what lies behind a seal is not run to measure how long that takes
      input: { ...work, measured: measured && !opensSeal(work) },
      data: [],
      chunk: 0,
      from: 0,
      to: 1,
    }) as Promise<ProbeCheck>;
  }

  /** How much work a probe is: refused with what is wrong with it. Seconds with all threads. */
  async estimate(
    version: VersionView,
    kind: string,
    given: unknown,
    settings: unknown,
  ): Promise<{ units: number; unitName: string; seconds: number }> {
    const input = this.read(kind, given, await this.series.complete(settings, [version.strategy]));
    const { problems, units, unitName, seconds } = await this.look(await this.work(0, kind, version, input), true);
    if (problems.length > 0) throw new Refused(problems);
    return { units, unitName, seconds: seconds / this.executor.width };
  }

  /** Sets up a probe with its criteria; it has not run yet. */
  async create(
    version: VersionView,
    kind: string,
    given: unknown,
    settings: unknown,
    cascade: { runId: number; stage: number } | null = null,
  ): Promise<number> {
    const input = this.read(kind, given, await this.series.complete(settings, [version.strategy]));
    const { problems } = await this.look(await this.work(0, kind, version, input), false);
    if (problems.length > 0) throw new Refused(problems);
    const now = Date.now();
    const [row] = await this.db
      .insert(probes)
      .values({
        versionId: version.id,
        kind,
        input: JSON.stringify(input),
        criteriaSetAt: now,
        cascadeRunId: cascade?.runId ?? null,
        stage: cascade?.stage ?? null,
        createdAt: now,
      })
      .returning({ id: probes.id });
    return row.id;
  }

  /** Changes criteria or inputs. A result that is there stays, and is out of date from now on. */
  async change(id: number, given: unknown): Promise<void> {
    const probe = await this.need(id);
    if (isOpen(probe.job)) refuse("probe", "it is running; cancel it before its criteria are changed");
    const input = this.read(probe.kind, given, probe.input.settings);
    const { settings, probe: before } = probe.input;
    if (JSON.stringify(input) === JSON.stringify({ settings, probe: before })) return;
    const version = (await this.strategies.version(probe.versionId))!;
    const { problems } = await this.look(await this.work(id, probe.kind, version, input), false);
    if (problems.length > 0) throw new Refused(problems);
    await this.db
      .update(probes)
      .set({ input: JSON.stringify(input), criteriaSetAt: Date.now() })
      .where(eq(probes.id, id));
  }

  /** Checks once more on the newest bars and gives what is to be run. */
  private async checked(
    id: number,
    opening: { reason: string; name: string } | null,
  ): Promise<{ work: ProbeWork; probe: ProbeView; check: ProbeCheck }> {
    const probe = await this.need(id);
    if (isOpen(probe.job)) refuse("probe", "it is running already");
    const version = (await this.strategies.version(probe.versionId))!;
    const work = await this.work(id, probe.kind, version, probe.input);
    if (opensSeal(work)) checkOpening(opening);
    const check = await this.look(work, false);
    if (check.problems.length > 0) throw new Refused(check.problems);
    return { work, probe, check };
  }

  /** Queues a probe; its result appears when its job is done. A hold-out needs a reason and a name. */
  async start(id: number, opening: { reason: string; name: string } | null = null): Promise<void> {
    const { work, probe, check } = await this.checked(id, opening);
    const [{ jobId }] = (await this.db.$client.execute("SELECT COALESCE(MAX(id), 0) + 1 AS jobId FROM jobs")).rows as unknown as {
      jobId: number;
    }[];
    await this.db.batch([
      this.jobs.queue({
        id: jobId,
        kind: "probe",
        title: `${probe.name}, ${probe.strategyName} v${probe.versionNumber}`,
        input: { ...work, opening },
        total: check.units,
        chunkSize: Math.max(1, Math.ceil(check.units / CHUNKS)),
      }),
      this.db.update(probes).set({ jobId }).where(eq(probes.id, id)),
    ]);
    this.jobs.nudge();
  }

  /** Runs a probe at once, without a job, and stores the outcome with what it rests on. */
  async run(id: number, opening: { reason: string; name: string } | null = null): Promise<void> {
    const { work, check } = await this.checked(id, opening);
    const units = (await this.executor.run({
      jobId: -++this.atOnce,
      kind: "probe",
      input: work,
      data: barsOfProbe(work),
      chunk: 0,
      from: 0,
      to: check.units,
    })) as unknown[];
    const [first, ...rest] = await this.writing(work, await this.conclude(work, units), opening);
    await this.db.batch([first, ...rest]);
  }

  private conclude(work: ProbeWork, units: unknown[]): Promise<ProbeOutcome> {
    return this.executor.run({
      jobId: 0,
      kind: "probe-conclusion",
      input: { ...work, units },
      data: [],
      chunk: 0,
      from: 0,
      to: 1,
    }) as Promise<ProbeOutcome>;
  }

  /** What a finished probe writes: its result, what it rests on, the trial that it was, and the seals that it opened. */
  private async writing(
    work: ProbeWork,
    outcome: ProbeOutcome,
    opening: { reason: string; name: string } | null,
  ): Promise<BatchItem<"sqlite">[]> {
    const { probeId, settings, input: probe } = work;
    const [row] = await this.db.select().from(probes).innerJoin(versions, eq(versions.id, probes.versionId)).where(eq(probes.id, probeId));
    // what lies behind a seal is not watched; the other bars are part of what the result rests on
    const others = opensSeal(work) ? [] : work.others.flatMap((one) => one.settings.markets.map(({ symbol, bars }) => ({ symbol, bars })));
    const input = JSON.stringify({ settings, probe, ...(others.length > 0 && { others }) });
    const now = Date.now();
    const basis = basisOf(row.versions.hash, JSON.parse(input));
    const [{ spent }] = (await this.db.$client.execute({ sql: "SELECT COUNT(*) AS spent FROM ledger WHERE what = 'probe'", args: [] }))
      .rows as unknown as { spent: number }[];
    const stored = JSON.stringify(outcome);
    const own = opensSeal(work) ? await Promise.all(settings.markets.map((market) => this.markets.bySymbol(market.symbol))) : [];
    return [
      this.db.update(probes).set({ input, basis, outcome: stored, ranAt: now, engine: ENGINE_VERSION }).where(eq(probes.id, probeId)),
      this.db.insert(probeResults).values({ probeId, input, basis, outcome: stored, ranAt: now }),
      this.db.insert(ledger).values({
        strategyId: row.versions.strategyId,
        what: "probe",
        reference: spent + 1,
        count: 1,
        fromDate: settings.from,
        toDate: settings.to,
        markets: symbolsOf(settings),
        at: now,
      }),
      ...(own.length > 0 && work.others.length > 0
        ? await this.seals.openingStatements(row.probes.versionId, work.others[0].settings, own as MarketView[], opening!)
        : []),
    ];
  }

  /**
   * A probe as the open document `canyon.probe/1`, its bars named as their exports are. A hold-out has none: what lies behind
   * the seal leaves by no file.
   */
  async plan(id: number): Promise<object> {
    const probe = await this.need(id);
    const version = (await this.strategies.version(probe.versionId))!;
    const { strategy, settings, others, input } = await this.work(id, probe.kind, version, probe.input);
    if (opensSeal(probe)) return refuse("probe", "a hold-out is run here only: what lies behind the seal leaves by no file");
    const named = async (given: Settings): Promise<Settings> => ({
      ...given,
      markets: await Promise.all(
        given.markets.map(async (market) => {
          const sources = (await this.markets.bySymbol(market.symbol))!.sources;
          const source = sources.find((one) => one.barsHash === market.bars)!;
          return { ...market, bars: barsFileName(market.symbol, source.name, source.timeframe) };
        }),
      ),
    });
    return {
      format: "canyon.probe/1",
      strategy,
      settings: await named(settings),
      others: await Promise.all(others.map(async (one) => ({ name: one.name, settings: await named(one.settings) }))),
      probe: probe.kind,
      input,
    };
  }

  /** Goes on in spite of a failure: with a reason and a name, which stay wherever the layer is drawn. */
  async overrule(id: number, reason: string, name: string): Promise<void> {
    const probe = await this.need(id);
    if (probe.state !== "failed") refuse("probe", "only a failure can be overruled");
    const problems = [
      ...(reason.trim() === "" ? [{ path: "reason", message: "say why the failure is overruled; the reason stays with it" }] : []),
      ...(name.trim() === "" ? [{ path: "name", message: "say who overrules it" }] : []),
    ];
    if (problems.length > 0) throw new Refused(problems);
    const [{ basis }] = await this.db.select({ basis: probes.basis }).from(probes).where(eq(probes.id, id));
    await this.db.insert(overrulings).values({ probeId: id, basis: basis!, reason: reason.trim(), name: name.trim(), at: Date.now() });
  }

  async remove(id: number): Promise<void> {
    const probe = await this.get(id);
    if (probe !== null && probe.ranAt !== null) refuse("probe", "a probe that has run stays in the evidence");
    if (probe !== null && isOpen(probe.job)) refuse("probe", "it is running; cancel it first");
    await this.db.delete(probes).where(eq(probes.id, id));
  }

  async get(id: number): Promise<ProbeView | null> {
    return (await this.evidence.views(eq(probes.id, id)))[0] ?? null;
  }

  private async need(id: number): Promise<ProbeView> {
    return (await this.get(id)) ?? refuse("probe", "there is no such probe", 404);
  }

  ofVersion(versionId: number): Promise<ProbeView[]> {
    return this.evidence.views(eq(probes.versionId, versionId));
  }

  /** Probes of a cascade's run. */
  async ofCascade(runId: number): Promise<(ProbeView & { stage: number })[]> {
    const stages = await this.db.select({ id: probes.id, stage: probes.stage }).from(probes).where(eq(probes.cascadeRunId, runId));
    const views = await this.evidence.views(eq(probes.cascadeRunId, runId));
    return views.map((view) => ({ ...view, stage: stages.find((one) => one.id === view.id)!.stage! }));
  }

  all(): Promise<ProbeView[]> {
    return this.evidence.views(and(isNull(strategies.deletedAt)));
  }

  /** The version that a job's probe belongs to, by the job's number. */
  async owners(): Promise<Map<number, { strategyId: number; number: number; probe: number }>> {
    const rows = await this.db
      .select({ jobId: probes.jobId, strategyId: versions.strategyId, number: versions.number, probe: probes.id })
      .from(probes)
      .innerJoin(versions, eq(versions.id, probes.versionId))
      .innerJoin(jobRows, eq(jobRows.id, probes.jobId));
    return new Map(rows.map(({ jobId, ...owner }) => [jobId!, owner]));
  }

  /** Layers of evidence by version, oldest first. */
  async layers(): Promise<Map<number, Layer[]>> {
    const out = new Map<number, Layer[]>();
    for (const probe of await this.all()) out.set(probe.versionId, [...(out.get(probe.versionId) ?? []), layerOf(probe)]);
    return out;
  }
}

const isOpen = (job: JobProgress | null): boolean => job !== null && ["queued", "running", "paused"].includes(job.state);
