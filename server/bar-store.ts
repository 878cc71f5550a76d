import { asc, eq } from "drizzle-orm";
import { gunzipSync, gzipSync } from "node:zlib";
import { decodeBars, emptyBars, encodeBars, hashBars, sliceBars, BAR_COLUMNS, type Bars } from "#core/bars";
import type { Database } from "./db/open";
import { barChunks, barSets } from "./db/schema";

const CHUNK_ROWS = 65_536;

/** The statements that store bars under the hash of their columns; storing the same bars again changes nothing. */
export function storeBars(db: Database, bars: Bars) {
  const hash = hashBars(bars);
  const last = bars.length - 1;
  const set = db
    .insert(barSets)
    .values({
      hash,
      count: bars.length,
      firstTime: bars.time[0],
      lastTime: bars.time[last],
      lastClose: bars.close[last],
      outline: JSON.stringify(outlineOf(bars.close)),
    })
    .onConflictDoNothing();
  const chunks = [];
  for (let part = 0; part * CHUNK_ROWS < bars.length; part++) {
    const data = gzipSync(encodeBars(sliceBars(bars, part * CHUNK_ROWS, Math.min(bars.length, (part + 1) * CHUNK_ROWS))));
    chunks.push(db.insert(barChunks).values({ hash, part, data }).onConflictDoNothing());
  }
  return { hash, statements: [set, ...chunks] as const };
}

/** A series thinned to at most `points` values, first and last included. */
export function outlineOf(series: ArrayLike<number>, points = 100): number[] {
  if (series.length <= points) return Array.from(series);
  return Array.from({ length: points }, (_, i) => series[Math.round((i * (series.length - 1)) / (points - 1))]);
}

/** Reads bars by their hash, or null where there are none. */
export async function loadBars(db: Database, hash: string): Promise<Bars | null> {
  const rows = await db.select().from(barChunks).where(eq(barChunks.hash, hash)).orderBy(asc(barChunks.part));
  if (rows.length === 0) return null;
  const parts = rows.map((row) => decodeBars(gunzipSync(row.data)));
  if (parts.length === 1) return parts[0];
  const bars = emptyBars(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    for (const column of BAR_COLUMNS) bars[column].set(part[column], at);
    at += part.length;
  }
  return bars;
}

/** Bars by hash with the most recently used kept in memory. */
export class BarCache {
  private readonly kept = new Map<string, Bars>();
  constructor(
    private readonly db: Database,
    private readonly size = 12,
  ) {}

  async get(hash: string): Promise<Bars | null> {
    const known = this.kept.get(hash);
    if (known !== undefined) {
      this.kept.delete(hash);
      this.kept.set(hash, known);
      return known;
    }
    const bars = await loadBars(this.db, hash);
    if (bars !== null) {
      this.kept.set(hash, bars);
      if (this.kept.size > this.size) this.kept.delete(this.kept.keys().next().value!);
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
