import type { Logger } from "pino";
import { BarCache } from "./bar-store";
import { openDatabase, type Database } from "./db/open";
import type { ChunkExecutor, JobKind } from "./jobs/protocol";
import { JobRunner } from "./jobs/runner";
import { Markets } from "./markets";
import { optimizationJob, Optimizations } from "./optimizations";
import { Portfolios } from "./portfolios";
import { Probes } from "./probes";
import { Runs } from "./runs";
import { Strategies } from "./strategies";

/** What the server offers to routes: one object a place of the work. */
export interface Services {
  db: Database;
  bars: BarCache;
  markets: Markets;
  strategies: Strategies;
  runs: Runs;
  jobs: JobRunner;
  optimizations: Optimizations;
  probes: Probes;
  portfolios: Portfolios;
  close(): Promise<void>;
}

/** Opens the data folder and makes the services. Jobs begin only when `jobs.start` is called. */
export async function openServices(folder: string, migrations: string, executor: ChunkExecutor, log: Logger): Promise<Services> {
  const db = await openDatabase(folder, migrations);
  const bars = new BarCache(db);
  const markets = new Markets(db);
  const strategies = new Strategies(db);
  const kinds = new Map<string, JobKind>([["optimization", optimizationJob(db) as unknown as JobKind]]);
  const jobs = new JobRunner(db, executor, kinds, log);
  return {
    db,
    bars,
    markets,
    strategies,
    runs: new Runs(db, bars, strategies),
    jobs,
    optimizations: new Optimizations(db, bars, jobs),
    probes: new Probes(db, bars, markets, strategies),
    portfolios: new Portfolios(db, bars, strategies),
    async close() {
      await jobs.close();
      db.$client.close();
    },
  };
}
