import { and, eq } from "drizzle-orm";
import { gunzipSync, gzipSync } from "node:zlib";
import {
  packResult,
  unpackCurves,
  unpackEvents,
  unpackLevels,
  unpackOrders,
  unpackResult,
  unpackTrades,
  type Curves,
  type OrderRecord,
  type PackedResult,
  type ResultHead,
  type ResultParts,
  type RunEvent,
  type RunResult,
  type Trade,
  type TradeLevels,
} from "#core/documents";
import type { Database } from "./db/open";
import { runParts, runs } from "./db/schema";

export const RUN_PARTS = ["curves", "trades", "orders", "events", "levels"] as const;
export type RunPart = (typeof RUN_PARTS)[number];

/** Fast packing: floats of an equity hardly get smaller by trying harder. */
const PACKING = 1;
/** As many unpacked parts stay at hand. */
const KEPT = 12;

/** A stored run's result: its head, and its long columns one by one as they are asked for. */
export interface StoredResult {
  head: ResultHead;
  curves(): Promise<Curves>;
  trades(): Promise<Trade[]>;
  orders(): Promise<OrderRecord[]>;
  events(): Promise<RunEvent[]>;
  /** null for runs that were stored before levels were */
  levels(): Promise<TradeLevels | null>;
  /** the whole document */
  document(): Promise<RunResult>;
}

/** The pieces in which results lie in the database. */
export class RunPartStore {
  private readonly kept = new Map<string, unknown>();

  constructor(private readonly db: Database) {}

  /** A result's head as `runs.result` holds it, and the rows of its parts. */
  packed({ head, parts }: PackedResult): { head: Buffer; parts: { part: RunPart; data: Buffer }[] } {
    return {
      head: gzipSync(JSON.stringify(head), { level: PACKING }),
      parts: Object.entries(parts).map(([part, bytes]) => ({ part: part as RunPart, data: gzipSync(bytes, { level: PACKING }) })),
    };
  }

  /** What is stored of a run. A run from before there were parts is taken apart once, here. */
  async result(id: number, stored: Buffer): Promise<StoredResult> {
    let head = JSON.parse(gunzipSync(stored).toString("utf8")) as ResultHead | RunResult;
    if ("trades" in head) {
      const { head: packed, parts } = this.packed(packResult(head));
      await this.db.batch([
        this.db.insert(runParts).values(parts.map((part) => ({ runId: id, ...part }))),
        this.db.update(runs).set({ result: packed }).where(eq(runs.id, id)),
      ]);
      head = packResult(head).head;
    }
    const own = head;
    return {
      head: own,
      curves: () => this.unpacked(id, "curves", unpackCurves),
      trades: () => this.unpacked(id, "trades", unpackTrades),
      orders: () => this.unpacked(id, "orders", unpackOrders),
      events: () => this.unpacked(id, "events", unpackEvents),
      levels: async () => ((await this.raw(id, "levels")) === null ? null : this.unpacked(id, "levels", unpackLevels)),
      document: async () => {
        const names = ["curves", "trades", "orders", "events"] as const;
        const bytes = await Promise.all(names.map((part) => this.bytes(id, part)));
        return unpackResult(own, Object.fromEntries(names.map((name, i) => [name, bytes[i]])) as unknown as ResultParts);
      },
    };
  }

  /** A part as it is stored: packed, gzip. Null where there is none. */
  async raw(id: number, part: RunPart): Promise<Buffer | null> {
    const [row] = await this.db
      .select({ data: runParts.data })
      .from(runParts)
      .where(and(eq(runParts.runId, id), eq(runParts.part, part)));
    return row?.data ?? null;
  }

  private async bytes(id: number, part: RunPart): Promise<Uint8Array> {
    const raw = await this.raw(id, part);
    if (raw === null) throw new Error(`run ${id} has no ${part}`);
    return gunzipSync(raw);
  }

  private async unpacked<T>(id: number, part: RunPart, unpack: (bytes: Uint8Array) => T): Promise<T> {
    const key = `${id} ${part}`;
    const known = this.kept.get(key) as T | undefined;
    if (known !== undefined) return known;
    const value = unpack(await this.bytes(id, part));
    this.kept.set(key, value);
    if (this.kept.size > KEPT) this.kept.delete(this.kept.keys().next().value!);
    return value;
  }
}
