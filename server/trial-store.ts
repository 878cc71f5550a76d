import { and, asc, eq, gt, gte, inArray, lt, sql } from "drizzle-orm";
import type { BatchItem } from "drizzle-orm/batch";
import type { Metrics } from "#core/documents";
import { METRIC_KEYS } from "#core/metrics";
import type { Database } from "./db/open";
import { trialColumns, trials } from "./db/schema";

/** Trials that were computed together, as columns; figures that none of them has are left out. */
export interface TrialPart {
  first: number;
  combination: Float64Array;
  figures: Record<string, Float64Array>;
}

/** The columns of an optimization's trials, as far as they are there: rows in the order of their numbers. */
export interface StoredColumns {
  numbers: Int32Array;
  combination: Float64Array;
  /** NaN where a trial has no value */
  figure: (metric: string) => Float64Array;
}

/** Memory that columns may hold between two questions. */
const HELD_BYTES = 256 * 1024 * 1024;
/** Trials that one part may hold at most. */
const LONGEST = 2000;

interface Held {
  /** first numbers of the parts that are in it */
  parts: ReadonlySet<number>;
  numbers: Int32Array;
  columns: Map<string, Float64Array>;
}

const EMPTY: Held = { parts: new Set(), numbers: new Int32Array(0), columns: new Map() };

const bytesOf = (column: Float64Array): Buffer => Buffer.from(column.buffer, column.byteOffset, column.byteLength);

/** Trials in the database, column by column. */
export class TrialStore {
  private readonly held = new Map<number, Held>();

  constructor(private readonly db: Database) {}

  /** The statement that writes a part. */
  insert(optimizationId: number, { first, combination, figures }: TrialPart): BatchItem<"sqlite"> {
    return this.db
      .insert(trialColumns)
      .values(
        Object.entries({ combination, ...figures }).map(([column, data]) => ({ optimizationId, column, first, data: bytesOf(data) })),
      );
  }

  /** The columns with some figures; asked for again they come from memory, and only what was added since is read. */
  async columns(optimizationId: number, metrics: readonly string[]): Promise<StoredColumns> {
    const [{ parts }] = await this.db
      .select({ parts: sql<number>`count(*)` })
      .from(trialColumns)
      .where(and(eq(trialColumns.optimizationId, optimizationId), eq(trialColumns.column, "combination")));
    let held = this.held.get(optimizationId);
    if (held === undefined || held.parts.size !== parts) held = await this.grown(optimizationId, held ?? EMPTY, metrics);
    // the last one asked for is the last to go
    this.held.delete(optimizationId);
    this.held.set(optimizationId, held);
    const { numbers, columns } = held;
    for (const metric of metrics)
      if (!columns.has(metric)) columns.set(metric, await this.read(optimizationId, metric, numbers, new Float64Array(0)));
    const found = new Map(columns);
    this.tidy(optimizationId, new Set(["combination", ...metrics]));
    return {
      numbers,
      combination: found.get("combination")!,
      figure: (metric) => {
        const column = found.get(metric);
        if (column === undefined) throw new Error(`the column ${metric} was not asked for`);
        return column;
      },
    };
  }

  /** What is held with the parts that were written since. Parts end nearly in order, so that most of what is held stays a beginning. */
  private async grown(optimizationId: number, held: Held, metrics: readonly string[]): Promise<Held> {
    const known = await this.db
      .select({ first: trialColumns.first, count: sql<number>`length(${trialColumns.data}) / 8` })
      .from(trialColumns)
      .where(and(eq(trialColumns.optimizationId, optimizationId), eq(trialColumns.column, "combination")))
      .orderBy(asc(trialColumns.first));
    const parts = new Set(known.map(({ first }) => first));
    const next = known.findIndex(({ first }) => !held.parts.has(first));
    const kept = known.slice(0, next < 0 ? known.length : next).reduce((sum, { count }) => sum + count, 0);
    const numbers = new Int32Array(known.reduce((sum, { count }) => sum + count, 0));
    let at = 0;
    for (const { first, count } of known) for (let i = 0; i < count; i++) numbers[at++] = first + i;
    const columns = new Map<string, Float64Array>();
    for (const key of ["combination", ...metrics])
      columns.set(key, await this.read(optimizationId, key, numbers, held.columns.get(key)?.subarray(0, kept) ?? new Float64Array(0)));
    return { parts, numbers, columns };
  }

  /** All figures of some trials, in the order of METRIC_KEYS; throws where one is not there. */
  async figures(optimizationId: number, from: number, to: number): Promise<Float64Array[]> {
    const rows = await this.some(optimizationId, from, to);
    const missing = rows.filter((row) => row === null).length;
    if (missing > 0) throw new Error(`of ${to - from} trials ${missing} are not written`);
    return rows as Float64Array[];
  }

  /** The same, null for those that are not there. */
  async some(optimizationId: number, from: number, to: number): Promise<(Float64Array | null)[]> {
    const parts = await this.db
      .select()
      .from(trialColumns)
      .where(
        and(
          eq(trialColumns.optimizationId, optimizationId),
          // named one by one, so that each is found by its place
          inArray(trialColumns.column, ["combination", ...METRIC_KEYS]),
          lt(trialColumns.first, to),
          gt(trialColumns.first, from - LONGEST),
        ),
      );
    const out = new Array<Float64Array | null>(to - from).fill(null);
    for (const { column, first, data } of parts) {
      const values = floats(data);
      const key = METRIC_KEYS.indexOf(column);
      for (let i = Math.max(0, from - first); i < values.length && first + i < to; i++) {
        const row = (out[first + i - from] ??= new Float64Array(METRIC_KEYS.length).fill(NaN));
        if (key >= 0) row[key] = values[i];
      }
    }
    return out;
  }

  /** One column for some numbers, of which the first ones are at hand; NaN where the parts lack it. */
  private async read(optimizationId: number, column: string, numbers: Int32Array, begun: Float64Array): Promise<Float64Array> {
    const out = new Float64Array(numbers.length).fill(NaN);
    out.set(begun);
    if (begun.length === numbers.length) return out;
    const rows = await this.db
      .select({ first: trialColumns.first, data: trialColumns.data })
      .from(trialColumns)
      .where(
        and(
          eq(trialColumns.optimizationId, optimizationId),
          eq(trialColumns.column, column),
          gte(trialColumns.first, numbers[begun.length]),
        ),
      )
      .orderBy(asc(trialColumns.first));
    let at = begun.length;
    for (const { first, data } of rows) {
      // a part may lack a figure that others have
      while (at < numbers.length && numbers[at] < first) at++;
      // what was written since the numbers were read belongs to the next question
      if (numbers[at] !== first) continue;
      const values = floats(data);
      out.set(values, at);
      at += values.length;
    }
    return out;
  }

  /** Lets go what was asked for longest ago, first of other optimizations, then of this one. */
  private tidy(asked: number, keep: ReadonlySet<string>): void {
    let bytes = 0;
    for (const { columns } of this.held.values()) for (const column of columns.values()) bytes += column.byteLength;
    for (const [id, { columns }] of this.held) {
      if (bytes <= HELD_BYTES) return;
      for (const [key, column] of columns) {
        if (bytes <= HELD_BYTES) return;
        if (id === asked && keep.has(key)) continue;
        columns.delete(key);
        bytes -= column.byteLength;
      }
      if (id !== asked) this.held.delete(id);
    }
  }
}

function floats(data: Buffer): Float64Array {
  const out = new Float64Array(data.byteLength / 8);
  new Uint8Array(out.buffer).set(data);
  return out;
}

/** Makes columns of the trials that earlier versions stored as rows; each optimization's whole, or not at all. */
export async function upgradeTrials(
  db: Database,
  combinationOf: (optimizationId: number) => Promise<(values: Readonly<Record<string, number>>) => number>,
): Promise<void> {
  const ids = await db.selectDistinct({ id: trials.optimizationId }).from(trials);
  const store = new TrialStore(db);
  for (const { id } of ids) {
    const combination = await combinationOf(id);
    const rows = await db.select().from(trials).where(eq(trials.optimizationId, id)).orderBy(asc(trials.number));
    const statements: BatchItem<"sqlite">[] = [];
    for (let from = 0; from < rows.length;) {
      let to = from + 1;
      while (to < rows.length && to - from < LONGEST && rows[to].number === rows[to - 1].number + 1) to++;
      const part = rows.slice(from, to);
      const metrics = part.map((row) => JSON.parse(row.metrics) as Metrics);
      statements.push(
        store.insert(id, {
          first: part[0].number,
          combination: Float64Array.from(part, (row) => combination(JSON.parse(row.values) as Record<string, number>)),
          figures: Object.fromEntries(METRIC_KEYS.map((key) => [key, Float64Array.from(metrics, (one) => one[key] ?? NaN)])),
        }),
      );
      from = to;
    }
    await db.batch([db.delete(trials).where(eq(trials.optimizationId, id)), ...statements]);
  }
}
