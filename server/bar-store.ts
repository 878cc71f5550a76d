import { eq, inArray } from "drizzle-orm";
import type { BatchItem } from "drizzle-orm/batch";
import { createHash } from "node:crypto";
import { gunzipSync, gzipSync } from "node:zlib";
import { hashedPieces, joinBars, packBars, sliceBars, unpackBars, type Bars } from "#core/bars";
import type { Database } from "./db/open";
import { barParts, barSets, sources } from "./db/schema";
import { refuse } from "./problem";

const PART_ROWS = 65_536;
/** hardly larger than the smallest, and made in half the time */
const PACKING = 4;

/** `hashBars` by the platform's own SHA-256, which is many times faster. */
export function fastHash(bars: Bars): string {
  const hash = createHash("sha256");
  for (const piece of hashedPieces(bars)) hash.update(piece);
  return hash.digest("hex");
}

/** Bars ready to be written: plain values, so that a worker thread can make them and hand them over. */
export interface StoredBars {
  set: typeof barSets.$inferInsert;
  parts: { hash: string; data: Uint8Array }[];
}

/** Packs bars for the database. `known` tells which parts are there already and need no packing. */
export async function packForStore(bars: Bars, known: (hashes: string[]) => Promise<Set<string>>): Promise<StoredBars> {
  const slices: Bars[] = [];
  for (let at = 0; at < bars.length; at += PART_ROWS) slices.push(sliceBars(bars, at, Math.min(bars.length, at + PART_ROWS)));
  const hashes = slices.map(fastHash);
  const held = await known(hashes);
  const last = bars.length - 1;
  return {
    set: {
      hash: fastHash(bars),
      count: bars.length,
      firstTime: bars.time[0],
      lastTime: bars.time[last],
      lastClose: bars.close[last],
      outline: JSON.stringify(outlineOf(bars.close)),
      parts: JSON.stringify(hashes),
    },
    parts: slices.flatMap((slice, i) =>
      held.has(hashes[i]) ? [] : [{ hash: hashes[i], data: gzipSync(packBars(slice), { level: PACKING }) }],
    ),
  };
}

/** Which of the parts are in the database. */
export async function knownParts(db: Database, hashes: string[]): Promise<Set<string>> {
  if (hashes.length === 0) return new Set();
  const rows = await db.select({ hash: barParts.hash }).from(barParts).where(inArray(barParts.hash, hashes));
  return new Set(rows.map((row) => row.hash));
}

/** Hash of a source's raw bars as they are now. */
export async function rawHashOf(db: Database, sourceId: number): Promise<string> {
  const [row] = await db.select({ rawHash: sources.rawHash }).from(sources).where(eq(sources.id, sourceId));
  if (row === undefined) throw new Error(`there is no source ${sourceId}`);
  return row.rawHash;
}

/** The statements that write packed bars; writing the same bars again changes nothing. */
export const storeStatements = (db: Database, stored: StoredBars): BatchItem<"sqlite">[] => [
  ...stored.parts.map(({ hash, data }) =>
    db
      .insert(barParts)
      .values({ hash, data: Buffer.from(data) })
      .onConflictDoNothing(),
  ),
  db.insert(barSets).values(stored.set).onConflictDoNothing(),
];

/** Packs bars and gives the statements that store them under the hash of their columns. */
export async function storeBars(db: Database, bars: Bars): Promise<{ hash: string; statements: BatchItem<"sqlite">[] }> {
  const stored = await packForStore(bars, (hashes) => knownParts(db, hashes));
  return { hash: stored.set.hash, statements: storeStatements(db, stored) };
}

/** A series thinned to at most `points` values, first and last included. */
export function outlineOf(series: ArrayLike<number>, points = 100): number[] {
  if (series.length <= points) return Array.from(series);
  return Array.from({ length: points }, (_, i) => series[Math.round((i * (series.length - 1)) / (points - 1))]);
}

/** Whether bars that reach behind a seal may be read: only by what looks after the data, and by whoever opens the seal. */
export type Seal = "kept" | "opened";

/**
 * The packed parts of bars, in order, each compressed; null where there are no such bars. Every reader of bars comes by
 * here, whatever it is for: bars that reach behind a seal are refused unless it is opened.
 */
export async function loadParts(db: Database, hash: string, seal: Seal = "kept"): Promise<Buffer[] | null> {
  const [set] = await db.select({ parts: barSets.parts, sealed: barSets.sealed }).from(barSets).where(eq(barSets.hash, hash));
  if (set === undefined) return null;
  if (set.sealed === 1 && seal === "kept") return refuse("bars", "these bars reach behind a seal; only a hold-out probe opens it", 403);
  const hashes = JSON.parse(set.parts) as string[];
  const rows = await db.select().from(barParts).where(inArray(barParts.hash, hashes));
  const byHash = new Map(rows.map((row) => [row.hash, row.data]));
  return hashes.map((part) => {
    const data = byHash.get(part);
    if (data === undefined) throw new Error(`the part ${part} of the bars ${hash} is not in the database`);
    return data;
  });
}

/** Reads bars by their hash, or null where there are none. */
export async function loadBars(db: Database, hash: string, seal: Seal = "kept"): Promise<Bars | null> {
  const parts = await loadParts(db, hash, seal);
  return parts === null ? null : joinBars(parts.map((part) => unpackBars(gunzipSync(part))));
}

/** Bars by hash with the most recently used kept in memory, up to a number of rows. */
export class BarCache {
  private readonly kept = new Map<string, Bars>();
  private rows = 0;

  constructor(
    private readonly db: Database,
    private readonly mostRows = 2_000_000,
  ) {}

  /** Bars for what looks after the data, and for whoever opens a seal; never kept, so that no other reader comes by them. */
  async opened(hash: string): Promise<Bars> {
    const bars = this.kept.get(hash) ?? (await loadBars(this.db, hash, "opened"));
    if (bars === null) throw new Error(`the bars ${hash} are not in the database`);
    return bars;
  }

  /** Forgets bars that were sealed. */
  forget(hashes: readonly string[]): void {
    for (const hash of hashes) {
      const held = this.kept.get(hash);
      if (held === undefined) continue;
      this.kept.delete(hash);
      this.rows -= held.length;
    }
  }

  async get(hash: string): Promise<Bars | null> {
    const known = this.kept.get(hash);
    if (known !== undefined) {
      this.kept.delete(hash);
      this.kept.set(hash, known);
      return known;
    }
    const bars = await loadBars(this.db, hash);
    if (bars !== null && !this.kept.has(hash)) {
      this.kept.set(hash, bars);
      this.rows += bars.length;
      for (const [oldest, dropped] of this.kept) {
        if (this.rows <= this.mostRows || oldest === hash) break;
        this.kept.delete(oldest);
        this.rows -= dropped.length;
      }
    }
    return bars;
  }

  /** Bars of all hashes; throws where one is missing (a broken database, not a user's mistake). */
  async all(hashes: readonly string[]): Promise<Bars[]> {
    return Promise.all(
      hashes.map(async (hash) => {
        const bars = await this.get(hash);
        if (bars === null) throw new Error(`the bars ${hash} are not in the database`);
        return bars;
      }),
    );
  }
}
