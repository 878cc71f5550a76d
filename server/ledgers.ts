import { eq } from "drizzle-orm";
import type { Database } from "./db/open";
import { ledger, strategies, tries } from "./db/schema";

/** Trials that were spent at one time by one thing. */
export interface Spent {
  what: "change by hand" | "run" | "optimization" | "probe";
  reference: number;
  count: number;
  /** stretch of dates that was looked at; null: from the first, to the last */
  from: string | null;
  to: string | null;
  /** symbols with commas; null where it was not written down yet */
  markets: string | null;
  at: number;
}

/** Trials over a calendar year of the data, by all that looked at it. */
export interface Looked {
  year: number;
  trials: number;
  strategies: number;
}

const WHAT: Record<string, Spent["what"]> = { run: "run", optimization: "optimization", probe: "probe" };

/** Every trial that was ever spent: by strategy, and by stretch of the data. */
export class Ledgers {
  constructor(private readonly db: Database) {}

  /** What was spent on a strategy's line, oldest first; changes by hand day by day. */
  async ofStrategy(strategyId: number): Promise<Spent[]> {
    const [entries, tried] = await Promise.all([
      this.db.select().from(ledger).where(eq(ledger.strategyId, strategyId)),
      this.db.select().from(tries).where(eq(tries.strategyId, strategyId)),
    ]);
    const days = new Map<string, Spent>();
    for (const { at, fromDate, toDate, markets } of tried) {
      const key = JSON.stringify([Math.floor(at / 86_400_000), fromDate, toDate, markets]);
      const held = days.get(key);
      if (held === undefined) days.set(key, { what: "change by hand", reference: 0, count: 1, from: fromDate, to: toDate, markets, at });
      else {
        held.count++;
        held.at = Math.max(held.at, at);
      }
    }
    const rows = entries.map((row): Spent => ({
      what: WHAT[row.what],
      reference: row.reference,
      count: row.count,
      from: row.fromDate,
      to: row.toDate,
      markets: row.markets,
      at: row.at,
    }));
    return [...rows, ...days.values()].sort((a, b) => a.at - b.at);
  }

  /**
   * How many trials looked at each year of a market's data, by all strategies together. A trial looks at every year of its
   * stretch; one of which it was not written down where it ran counts for every market.
   */
  async ofData(symbol: string, first: number, last: number): Promise<Looked[]> {
    const [entries, tried] = await Promise.all([
      this.db.select().from(ledger).innerJoin(strategies, eq(strategies.id, ledger.strategyId)),
      this.db.select().from(tries),
    ]);
    const all = [...entries.map(({ ledger: row }) => row), ...tried.map((row) => ({ ...row, count: 1 }))].filter(
      ({ markets }) => markets === null || markets.split(",").includes(symbol),
    );
    return Array.from({ length: Math.max(0, last - first + 1) }, (_, k): Looked => {
      const year = first + k;
      const own = all.filter(
        ({ fromDate, toDate }) => Number(fromDate?.slice(0, 4) ?? first) <= year && Number(toDate?.slice(0, 4) ?? last) >= year,
      );
      return { year, trials: own.reduce((sum, { count }) => sum + count, 0), strategies: new Set(own.map((row) => row.strategyId)).size };
    });
  }
}
