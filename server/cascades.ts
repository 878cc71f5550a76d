import { and, desc, eq, isNull } from "drizzle-orm";
import type { Logger } from "pino";
import { READY_MADE_CASCADES, readCascade, stageInput, windowOf, type Cascade } from "#core/cascades";
import { PROBES } from "#core/probes";
import type { Database } from "./db/open";
import { cascadeRuns, cascades } from "./db/schema";
import type { JobRunner } from "./jobs/runner";
import { layerOf, type Layer } from "./layers";
import type { Markets } from "./markets";
import type { Optimizations } from "./optimizations";
import { probeSettings } from "./probe-settings";
import type { ProbeView } from "./probe-views";
import type { Probes } from "./probes";
import { isRefused, Refused, refuse } from "./problem";
import { searchChoices } from "./search-choices";
import type { Strategies, VersionView } from "./strategies";

export interface CascadeView {
  id: number;
  document: Cascade;
  updatedAt: number;
  runs: number;
}

/** A version that could not be asked at a stage. */
export interface Stuck {
  version: number;
  stage: number;
  message: string;
}

/** How a version got through a cascade. */
export interface Course {
  version: { id: number; strategyId: number; name: string; number: number };
  /** the probe of each stage that was asked */
  probes: (ProbeView & { stage: number })[];
  layers: Layer[];
  stuck: Stuck | null;
  /** where it stands: at work, through, or stopped at a stage */
  end: "at work" | "through" | "stopped";
}

/** One stage of a run: who came in, who came out, and what stopped the others. */
export interface Funnel {
  name: string;
  entered: number;
  came: number;
  /** still to be told */
  open: number;
  stoppedBy: { label: string; count: number }[];
}

export interface CascadeRunView {
  id: number;
  cascadeId: number;
  document: Cascade;
  createdAt: number;
  stoppedAt: number | null;
  courses: Course[];
  funnel: Funnel[];
  done: boolean;
}

/** Ordered sets of probes under a name, and their runs on versions: stage by stage, the next one for those that came out of the one before. */
export class Cascades {
  private advancing: Promise<void> = Promise.resolve();

  constructor(
    private readonly db: Database,
    private readonly probes: Probes,
    private readonly strategies: Strategies,
    private readonly optimizations: Optimizations,
    private readonly markets: Markets,
    private readonly jobs: JobRunner,
    private readonly log: Logger,
  ) {
    jobs.onEnd(() => this.advanceAll());
  }

  /** Puts the ready-made ones in place where there has never been any. */
  async start(): Promise<void> {
    const [any] = await this.db.select({ id: cascades.id }).from(cascades).limit(1);
    if (any === undefined) for (const one of READY_MADE_CASCADES) await this.create(one);
    this.advanceAll();
  }

  private read(given: unknown): Cascade {
    const { value, problems } = readCascade(given);
    if (value === null) throw new Refused(problems);
    return value;
  }

  async create(given: unknown): Promise<number> {
    const document = this.read(given);
    const now = Date.now();
    const [{ id }] = await this.db
      .insert(cascades)
      .values({ name: document.name, about: document.about ?? "", document: JSON.stringify(document), createdAt: now, updatedAt: now })
      .returning({ id: cascades.id });
    return id;
  }

  /** Changes a cascade; runs that have begun keep the stages that they began with. */
  async change(id: number, given: unknown): Promise<void> {
    const document = this.read(given);
    await this.db
      .update(cascades)
      .set({ name: document.name, about: document.about ?? "", document: JSON.stringify(document), updatedAt: Date.now() })
      .where(eq(cascades.id, id));
  }

  async remove(id: number): Promise<void> {
    await this.db.update(cascades).set({ deletedAt: Date.now() }).where(eq(cascades.id, id));
  }

  async restore(id: number): Promise<void> {
    await this.db.update(cascades).set({ deletedAt: null }).where(eq(cascades.id, id));
  }

  async list(): Promise<CascadeView[]> {
    const rows = await this.db.select().from(cascades).where(isNull(cascades.deletedAt)).orderBy(cascades.id);
    const runs = await this.db.select({ cascadeId: cascadeRuns.cascadeId }).from(cascadeRuns);
    return rows.map((row) => ({
      id: row.id,
      document: JSON.parse(row.document) as Cascade,
      updatedAt: row.updatedAt,
      runs: runs.filter((run) => run.cascadeId === row.id).length,
    }));
  }

  async get(id: number): Promise<CascadeView | null> {
    return (await this.list()).find((one) => one.id === id) ?? null;
  }

  /** Sends versions through a cascade. */
  async run(id: number, versionIds: readonly number[]): Promise<number> {
    const cascade = (await this.get(id)) ?? refuse("cascade", "there is no such cascade", 404);
    if (versionIds.length === 0) refuse("versions", "choose at least one version to send through");
    const found = await Promise.all(versionIds.map((version) => this.strategies.version(version)));
    if (found.some((version) => version === null)) refuse("versions", "a version that was chosen does not exist any more");
    const [row] = await this.db
      .insert(cascadeRuns)
      .values({
        cascadeId: id,
        document: JSON.stringify(cascade.document),
        versions: JSON.stringify(versionIds),
        stuck: "[]",
        createdAt: Date.now(),
      })
      .returning({ id: cascadeRuns.id });
    await this.advance(row.id);
    return row.id;
  }

  /** Ends a run where it is; probes at work are cancelled, results stay. */
  async stop(runId: number): Promise<void> {
    await this.db
      .update(cascadeRuns)
      .set({ stoppedAt: Date.now() })
      .where(and(eq(cascadeRuns.id, runId), isNull(cascadeRuns.stoppedAt)));
    for (const probe of await this.probes.ofCascade(runId)) if (isOpen(probe)) await this.jobs.cancel(probe.job!.id);
  }

  /** Takes every run that is not over one step on, one after the other. */
  private advanceAll(): void {
    this.advancing = this.advancing
      .then(async () => {
        const rows = await this.db.select({ id: cascadeRuns.id }).from(cascadeRuns).where(isNull(cascadeRuns.stoppedAt));
        for (const { id } of rows) await this.step(id);
      })
      .catch((error: unknown) => this.log.error({ error }, "a cascade could not be taken on"));
  }

  private async advance(runId: number): Promise<void> {
    this.advancing = this.advancing.then(() => this.step(runId));
    await this.advancing;
  }

  /** Starts what can be started: the first stage that has not been asked of a version that came so far, once all are through the stage before. */
  private async step(runId: number): Promise<void> {
    const view = await this.getRun(runId);
    if (view === null || view.stoppedAt !== null) return;
    const { document, courses } = view;
    for (const { probes } of courses)
      for (const probe of probes) if (probe.job === null && probe.outcome === null) await this.probes.start(probe.id);
    const atWork = courses.filter((course) => course.end === "at work");
    if (atWork.length === 0)
      return void (await this.db.update(cascadeRuns).set({ stoppedAt: Date.now() }).where(eq(cascadeRuns.id, runId)));
    if (atWork.some(({ probes }) => probes.some((probe) => probe.outcome === null))) return;
    const stage = Math.min(...atWork.map(({ probes }) => probes.length));
    const stuck: Stuck[] = [];
    for (const { version, probes } of atWork) {
      if (probes.length !== stage) continue;
      const message = await this.ask(runId, document, stage, (await this.strategies.version(version.id))!);
      if (message !== null) stuck.push({ version: version.id, stage, message });
    }
    if (stuck.length > 0) {
      const before = courses.flatMap((course) => course.stuck ?? []);
      await this.db
        .update(cascadeRuns)
        .set({ stuck: JSON.stringify([...before, ...stuck]) })
        .where(eq(cascadeRuns.id, runId));
      await this.step(runId);
    }
  }

  /** Asks a version what a stage asks; gives why that can't be done, or null. */
  private async ask(runId: number, document: Cascade, stage: number, version: VersionView): Promise<string | null> {
    try {
      const symbol = version.settings?.markets[0].symbol;
      const market = symbol === undefined ? null : await this.markets.bySymbol(symbol);
      if (market === null) return "the version was never looked at on a market; run it once, so that it has run settings";
      const searches = searchChoices(version.strategy, await this.optimizations.list(version.strategyId));
      const spans = [{ first: Math.floor(market.firstTime / 86_400_000), last: Math.floor(market.lastTime / 86_400_000) }];
      const input = stageInput(
        document.stages[stage],
        version.strategy,
        windowOf({ from: null, to: null }, spans),
        searches.at(-1)?.search ?? null,
      );
      const id = await this.probes.create(version, document.stages[stage].probe, input, probeSettings(version, market), { runId, stage });
      await this.probes.start(id);
      return null;
    } catch (error) {
      if (isRefused(error)) return error.problems.map(({ message }) => message).join("; ");
      throw error;
    }
  }

  async runsOf(cascadeId: number): Promise<CascadeRunView[]> {
    const rows = await this.db
      .select({ id: cascadeRuns.id })
      .from(cascadeRuns)
      .where(eq(cascadeRuns.cascadeId, cascadeId))
      .orderBy(desc(cascadeRuns.id))
      .limit(20);
    return (await Promise.all(rows.map((row) => this.getRun(row.id)))).filter((run) => run !== null);
  }

  async getRun(runId: number): Promise<CascadeRunView | null> {
    const [row] = await this.db.select().from(cascadeRuns).where(eq(cascadeRuns.id, runId));
    if (row === undefined) return null;
    const document = JSON.parse(row.document) as Cascade;
    const stuck = JSON.parse(row.stuck) as Stuck[];
    const probes = await this.probes.ofCascade(runId);
    const courses = await Promise.all(
      (JSON.parse(row.versions) as number[]).map(async (versionId): Promise<Course> => {
        const version = (await this.strategies.version(versionId))!;
        const own = probes.filter((probe) => probe.versionId === versionId).sort((a, b) => a.stage - b.stage);
        const held = stuck.find((one) => one.version === versionId) ?? null;
        return {
          version: { id: versionId, strategyId: version.strategyId, name: version.strategyName, number: version.number },
          probes: own,
          layers: own.map(layerOf),
          stuck: held,
          end: endOf(document, own, held, row.stoppedAt !== null),
        };
      }),
    );
    return {
      id: runId,
      cascadeId: row.cascadeId,
      document,
      createdAt: row.createdAt,
      stoppedAt: row.stoppedAt,
      courses,
      funnel: document.stages.map((stage, k) => funnelOf(PROBES.get(stage.probe)!.name, k, courses)),
      done: courses.every(({ end }) => end !== "at work"),
    };
  }
}

const isOpen = ({ job }: ProbeView): boolean => job !== null && ["queued", "running", "paused"].includes(job.state);

/** What a probe's own result was, whatever has changed since. */
const verdictOf = ({ outcome }: ProbeView) => outcome?.verdict ?? null;

function endOf({ stages, goOn }: Cascade, probes: readonly ProbeView[], stuck: Stuck | null, stopped: boolean): Course["end"] {
  if (stuck !== null) return "stopped";
  const last = probes.at(-1);
  const broken = last !== undefined && last.outcome === null && last.job !== null && !isOpen(last);
  if (broken) return "stopped";
  if (!goOn && probes.some((probe) => verdictOf(probe) === "failed")) return "stopped";
  if (probes.length === stages.length && probes.every((probe) => probe.outcome !== null))
    return probes.every((probe) => verdictOf(probe) === "passed") ? "through" : "stopped";
  return stopped ? "stopped" : "at work";
}

function funnelOf(name: string, stage: number, courses: readonly Course[]): Funnel {
  const asked = courses.filter(({ probes, stuck }) => probes.length > stage || stuck?.stage === stage);
  const stops = new Map<string, number>();
  const note = (label: string) => stops.set(label, (stops.get(label) ?? 0) + 1);
  let [came, open] = [0, 0];
  for (const { probes, stuck } of asked) {
    const probe = probes.at(stage);
    if (probe === undefined) note(stuck === null ? "not asked" : "could not be asked");
    else if (probe.outcome === null) {
      if (isOpen(probe) || probe.job === null) open++;
      else note(probe.job.state === "failed" ? "could not be run" : "cancelled");
    } else if (probe.outcome.verdict === "passed") came++;
    else for (const { label } of probe.outcome.criteria.filter(({ held }) => !held)) note(label);
  }
  return {
    name,
    entered: asked.length,
    came,
    open,
    stoppedBy: [...stops].map(([label, count]) => ({ label, count })).sort((a, b) => b.count - a.count),
  };
}
