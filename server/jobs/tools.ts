import { BarCache, knownParts, rawHashOf } from "../bar-store";
import type { Database } from "../db/open";
import { TrialStore } from "../trial-store";
import type { ChunkTools } from "./protocol";

/** What work that streams may use, out of a database that it only reads. */
export function toolsOf(db: Database, folder: string, bars = new BarCache(db)): (progress: (done: number) => void) => ChunkTools {
  return (progress) => ({
    folder,
    bars: async (hash) => (await bars.all([hash]))[0],
    openedBars: (hash) => bars.opened(hash),
    rawHash: (sourceId) => rawHashOf(db, sourceId),
    knownParts: (hashes) => knownParts(db, hashes),
    // a store of its own each time: what a thread has read once is seldom asked for again
    trials: (optimizationId, metrics) => new TrialStore(db).columns(optimizationId, metrics),
    trial: async (optimizationId, number) => (await new TrialStore(db).figures(optimizationId, number, number + 1))[0],
    progress,
  });
}
