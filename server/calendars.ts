import { asc, eq } from "drizzle-orm";
import type { MarketSpec, Session } from "#core/bars";
import { readMarket } from "#core/documents";
import type { Database } from "./db/open";
import { calendars, markets } from "./db/schema";
import { Refused, refuse } from "./problem";

export interface CalendarView {
  id: number;
  name: string;
  session: Session;
  /** symbols of the markets that follow it */
  markets: string[];
}

/** Named session hours with holidays and early closes, which any number of markets follow. */
export class Calendars {
  constructor(private readonly db: Database) {}

  async list(): Promise<CalendarView[]> {
    const rows = await this.db.select().from(calendars).orderBy(asc(calendars.name));
    const held = await this.db
      .select({ symbol: markets.symbol, calendarId: markets.calendarId, deletedAt: markets.deletedAt })
      .from(markets);
    return rows.map((row) => ({
      id: row.id,
      name: row.name,
      session: JSON.parse(row.session) as Session,
      markets: held.filter((market) => market.calendarId === row.id && market.deletedAt === null).map((market) => market.symbol),
    }));
  }

  async get(id: number): Promise<CalendarView | null> {
    return (await this.list()).find((calendar) => calendar.id === id) ?? null;
  }

  private check(name: string, session: unknown): Session {
    const read = readMarket({ format: "canyon.market/1", symbol: "X", session });
    const problems = [...(read.problems ?? [])];
    if (name.trim() === "") problems.push({ path: "name", message: "name is required" });
    if (problems.length > 0) throw new Refused(problems);
    return read.value!.session!;
  }

  async create(name: string, given: unknown): Promise<number> {
    const session = this.check(name, given);
    if ((await this.list()).some((calendar) => calendar.name === name.trim()))
      refuse("name", `there is a calendar “${name.trim()}” already`);
    const [row] = await this.db
      .insert(calendars)
      .values({ name: name.trim(), session: JSON.stringify(session), updatedAt: Date.now() })
      .returning({ id: calendars.id });
    return row.id;
  }

  /** Changes a calendar, and the session of every market that follows it, in one step. */
  async update(id: number, name: string, given: unknown): Promise<void> {
    const session = this.check(name, given);
    const known = await this.list();
    if (!known.some((calendar) => calendar.id === id)) refuse("calendar", "there is no such calendar", 404);
    if (known.some((calendar) => calendar.id !== id && calendar.name === name.trim()))
      refuse("name", `there is a calendar “${name.trim()}” already`);
    const followers = await this.db.select().from(markets).where(eq(markets.calendarId, id));
    await this.db.batch([
      this.db
        .update(calendars)
        .set({ name: name.trim(), session: JSON.stringify(session), updatedAt: Date.now() })
        .where(eq(calendars.id, id)),
      ...followers.map((market) =>
        this.db
          .update(markets)
          .set({ spec: JSON.stringify({ ...(JSON.parse(market.spec) as MarketSpec), session }) })
          .where(eq(markets.id, market.id)),
      ),
    ]);
  }

  async remove(id: number): Promise<void> {
    const calendar = await this.get(id);
    if (calendar === null) return;
    if (calendar.markets.length > 0)
      refuse("calendar", `${calendar.markets.join(", ")} still follow this calendar; give them another one first`);
    // markets that were taken out keep their copy of the session
    await this.db.batch([
      this.db.update(markets).set({ calendarId: null }).where(eq(markets.calendarId, id)),
      this.db.delete(calendars).where(eq(calendars.id, id)),
    ]);
  }
}
