import type { Logger } from "pino";
import { BarCache } from "./bar-store";
import { openDatabase, type Database } from "./db/open";
import type { ChunkExecutor, JobKind } from "./jobs/protocol";
import { JobRunner } from "./jobs/runner";
import { Audits } from "./audits";
import { Calendars } from "./calendars";
import { Cascades } from "./cascades";
import { Definitions } from "./definitions";
import { DerivedBars } from "./derived";
import { ExtraSeriesStore } from "./extra-series";
import { Imports } from "./importing/imports";
import { Ledgers } from "./ledgers";
import { Uploads } from "./importing/uploads";
import { MarketLists } from "./market-lists";
import { Markets } from "./markets";
import { QualityReports } from "./quality";
import { Sources } from "./sources";
import { Updates } from "./updates";
import { OptimizationLucks } from "./optimization-luck";
import { optimizationJob, Optimizations } from "./optimizations";
import { Plans } from "./plans";
import { Portfolios } from "./portfolios";
import { Preferences } from "./preferences";
import { Probes } from "./probes";
import { Reading } from "./reading";
import { RunSettingsStore } from "./run-settings";
import { Seals } from "./seals";
import { Runs } from "./runs";
import { StatusMoves } from "./status-moves";
import { Strategies } from "./strategies";
import { Studies } from "./studies";
import { TrialStore } from "./trial-store";
import { Trials } from "./trials";

/** What the server offers to routes: one object a place of the work. */
export interface Services {
  db: Database;
  bars: BarCache;
  markets: Markets;
  calendars: Calendars;
  sources: Sources;
  derived: DerivedBars;
  imports: Imports;
  quality: QualityReports;
  lists: MarketLists;
  series: ExtraSeriesStore;
  updates: Updates;
  strategies: Strategies;
  audits: Audits;
  definitions: Definitions;
  runSettings: RunSettingsStore;
  runs: Runs;
  reading: Reading;
  jobs: JobRunner;
  optimizations: Optimizations;
  plans: Plans;
  studies: Studies;
  trials: Trials;
  lucks: OptimizationLucks;
  probes: Probes;
  seals: Seals;
  ledgers: Ledgers;
  cascades: Cascades;
  statusMoves: StatusMoves;
  portfolios: Portfolios;
  preferences: Preferences;
  close(): Promise<void>;
}

/** Opens the data folder and makes the services. Jobs begin only when `jobs.start` is called. */
export async function openServices(folder: string, migrations: string, executor: ChunkExecutor, log: Logger): Promise<Services> {
  const db = await openDatabase(folder, migrations);
  const bars = new BarCache(db);
  const markets = new Markets(db);
  const strategies = new Strategies(db);
  const series = new ExtraSeriesStore(db, markets);
  const sources = new Sources(db, bars);
  const uploads = new Uploads(db, folder);
  await uploads.tidy();
  const kinds = new Map<string, JobKind>();
  const jobs = new JobRunner(db, executor, kinds, log);
  const imports = new Imports(db, markets, sources, uploads, jobs);
  const updates = new Updates(db, sources, jobs, log);
  const store = new TrialStore(db);
  const optimizations = new Optimizations(db, store, jobs, series, strategies, executor);
  await optimizations.upgrade();
  const trials = new Trials(store, strategies, executor);
  const searching = optimizationJob(db, store, (id) => optimizations.distinct(id));
  const studies = new Studies(db, jobs, strategies);
  const seals = new Seals(db, bars, sources);
  await seals.finish();
  const probes = new Probes(db, markets, strategies, series, seals, executor, jobs);
  for (const kind of [searching, studies.kind(), probes.kind(), imports.kind(), updates.kind()])
    kinds.set(kind.kind, kind as unknown as JobKind);
  const cascades = new Cascades(db, probes, strategies, optimizations, markets, jobs, log);
  await cascades.start();
  const runs = new Runs(db, bars, strategies, series);
  return {
    db,
    bars,
    markets,
    calendars: new Calendars(db),
    sources,
    derived: new DerivedBars(db, bars),
    imports,
    quality: new QualityReports(db, sources, executor),
    lists: new MarketLists(db, markets),
    series,
    updates,
    strategies,
    audits: new Audits(db, executor, series, log),
    definitions: new Definitions(db),
    runSettings: new RunSettingsStore(db),
    runs,
    reading: new Reading(db, bars, runs, strategies),
    jobs,
    optimizations,
    plans: new Plans(db),
    studies,
    trials,
    lucks: new OptimizationLucks(store, trials, strategies, executor),
    probes,
    seals,
    ledgers: new Ledgers(db),
    cascades,
    statusMoves: new StatusMoves(db, probes),
    portfolios: new Portfolios(db, bars, strategies, series, markets),
    preferences: new Preferences(db),
    async close() {
      updates.stop();
      await jobs.close();
      db.$client.close();
    },
  };
}
