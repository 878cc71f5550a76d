import { eq } from "drizzle-orm";
import { createHash } from "node:crypto";
import { MarketCalendar, parseTimeframe, resample, resampleFault, type Session } from "#core/bars";
import { storeBars, type BarCache } from "./bar-store";
import type { Database } from "./db/open";
import { derivedBars } from "./db/schema";
import { refuse } from "./problem";

export interface Derived {
  hash: string;
  /** intraday bars that lay outside every session and were left out */
  outside: number;
}

/**
 * Bars of a coarser timeframe, made once and kept. They are found by the hash of what they were made of, so that other
 * bars, another session or another timeframe never meet an old result.
 */
export class DerivedBars {
  private readonly making = new Map<string, Promise<Derived>>();

  constructor(
    private readonly db: Database,
    private readonly bars: BarCache,
  ) {}

  /** The bars `hash` of timeframe `from` as bars of timeframe `to`. Refused where that can't be. */
  async get(hash: string, from: string, to: string, session: Session | null): Promise<Derived> {
    const [fine, coarse] = [parseTimeframe(from), parseTimeframe(to)];
    if (fine === null || coarse === null) return refuse("timeframe", `“${fine === null ? from : to}” is not a timeframe`);
    const fault = resampleFault(fine, coarse);
    if (fault !== null) return refuse("timeframe", fault);
    const key = createHash("sha256")
      .update(JSON.stringify([hash, from, to, session]))
      .digest("hex");
    const [known] = await this.db.select().from(derivedBars).where(eq(derivedBars.key, key));
    if (known !== undefined) return { hash: known.barsHash, outside: known.outside };
    let making = this.making.get(key);
    if (making === undefined) {
      making = this.make(key, hash, from, to, session).finally(() => this.making.delete(key));
      this.making.set(key, making);
    }
    return making;
  }

  private async make(key: string, hash: string, from: string, to: string, session: Session | null): Promise<Derived> {
    const bars = await this.bars.get(hash);
    if (bars === null) return refuse("bars", "there are no bars with this hash", 404);
    const { bars: made, outside } = resample(bars, parseTimeframe(from)!, parseTimeframe(to)!, new MarketCalendar(session));
    if (made.length === 0) return refuse("timeframe", "no bar lies inside the market's session");
    if (made === bars) return { hash, outside };
    const { hash: madeHash, statements } = await storeBars(this.db, made);
    const [first, ...rest] = statements;
    await this.db.batch([first, ...rest, this.db.insert(derivedBars).values({ key, barsHash: madeHash, outside }).onConflictDoNothing()]);
    return { hash: madeHash, outside };
  }
}
