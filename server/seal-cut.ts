import { and, eq, inArray, isNull } from "drizzle-orm";
import { MarketCalendar, parseDate, parseTimeframe, sessionDates, sliceBars, type Bars, type DayNumber, type MarketSpec } from "#core/bars";
import type { Database } from "./db/open";
import type { StoredBars } from "./bar-store";
import { barSets, markets, seals } from "./db/schema";

/** A market's seal: its first sealed session date, and the sessions that dates are told by. */
export interface SealOf {
  from: string;
  date: DayNumber;
  session: MarketSpec["session"];
}

/** The seal of a market, or null. */
export async function sealOf(db: Database, marketId: number): Promise<SealOf | null> {
  const [row] = await db
    .select({ from: seals.fromDate, spec: markets.spec })
    .from(seals)
    .innerJoin(markets, eq(markets.id, seals.marketId))
    .where(eq(seals.marketId, marketId));
  return row === undefined ? null : { from: row.from, date: parseDate(row.from)!, session: (JSON.parse(row.spec) as MarketSpec).session };
}

/** The bars whose session date lies before the seal; a week or month that the seal cuts is left out whole. */
export function beforeSeal(bars: Bars, timeframe: string, { date, session }: Pick<SealOf, "date" | "session">): Bars {
  const parsed = parseTimeframe(timeframe)!;
  const calendar = new MarketCalendar(session);
  const dates = sessionDates(bars.time, parsed, calendar);
  const long = parsed.unit === "week" || parsed.unit === "month";
  let end = bars.length;
  while (end > 0 && (dates[end - 1] >= date || (long && calendar.endOf(bars.time[end - 1], parsed) > date * 86_400_000))) end--;
  return end === bars.length ? bars : sliceBars(bars, 0, end);
}

/** The statement after which nobody reads these bars but what looks after the data, and whoever opens the seal. */
export const markSealed = (db: Database, hashes: string[]) => db.update(barSets).set({ sealed: 1 }).where(inArray(barSets.hash, hashes));

/** The statement after which bars may be read again. */
export const markOpen = (db: Database, hash: string) => db.update(barSets).set({ sealed: 0 }).where(eq(barSets.hash, hash));

/** Bars on their way into a market, marked as sealed where they reach behind its seal, so that nobody reads them meanwhile. */
export async function sealStored<T extends StoredBars>(db: Database, symbol: string | null, stored: readonly T[]): Promise<readonly T[]> {
  if (symbol === null) return stored;
  const [market] = await db
    .select({ id: markets.id })
    .from(markets)
    .where(and(eq(markets.symbol, symbol), isNull(markets.deletedAt)));
  const seal = market === undefined ? null : await sealOf(db, market.id);
  if (seal === null) return stored;
  return stored.map((bars) => (bars.set.lastTime >= seal.date * 86_400_000 ? { ...bars, set: { ...bars.set, sealed: 1 } } : bars));
}
