import { and, asc, eq, isNull } from "drizzle-orm";
import { barAt, type Bars, type BarFigures, type MarketSpec } from "#core/bars";
import { NO_COSTS, readMarket, type Costs, type DocumentProblem } from "#core/documents";
import { storeBars } from "./bar-store";
import type { Database } from "./db/open";
import { barSets, calendars, markets, sourceChanges, sources } from "./db/schema";
import { MARKET_KINDS } from "./market-kinds";
import { settingsMarket, sourceFor } from "./market-source";
import { Refused, refuse } from "./problem";

/** Where bars of a market come from, as lists and pages show it. */
export interface SourceView {
  id: number;
  name: string;
  timeframe: string;
  isDefault: boolean;
  barsHash: string;
  rawHash: string;
  count: number;
  firstTime: number;
  lastTime: number;
  lastClose: number;
  outline: number[];
  served: boolean;
  checkedAt: number | null;
  checkProblem: string | null;
  updatedAt: number;
}

/** A market with its sources, as lists and pages show it; source, timeframe and bars are the default source's. */
export interface MarketView {
  id: number;
  symbol: string;
  name: string;
  kind: string;
  currency: string;
  sector: string;
  spec: MarketSpec;
  calendarId: number | null;
  costs: Costs;
  source: string;
  timeframe: string;
  barsHash: string;
  count: number;
  firstTime: number;
  lastTime: number;
  lastClose: number;
  outline: number[];
  sources: SourceView[];
  deletedAt: number | null;
}

export { MARKET_KINDS, settingsMarket, sourceFor };

/** What a trader says of a market; the rest has defaults. */
export interface MarketFields {
  symbol: string;
  name: string;
  kind: string;
  currency: string;
  tick: number;
  pointValue: number;
  sector?: string;
  unitStep?: number;
  minUnits?: number;
  margin?: MarketSpec["margin"] | null;
  session?: MarketSpec["session"];
  calendarId?: number | null;
  costs?: Costs;
}

export interface NewMarket extends MarketFields {
  source: string;
}

export class Markets {
  constructor(private readonly db: Database) {}

  private async views(rows: (typeof markets.$inferSelect)[]): Promise<MarketView[]> {
    const held = await this.db.select().from(sources).innerJoin(barSets, eq(barSets.hash, sources.barsHash)).orderBy(asc(sources.id));
    const byMarket = new Map<number, SourceView[]>();
    for (const { sources: source, bar_sets: set } of held) {
      const list = byMarket.get(source.marketId) ?? [];
      byMarket.set(source.marketId, list);
      list.push({
        id: source.id,
        name: source.name,
        timeframe: source.timeframe,
        isDefault: source.isDefault === 1,
        barsHash: source.barsHash,
        rawHash: source.rawHash,
        count: set.count,
        firstTime: set.firstTime,
        lastTime: set.lastTime,
        lastClose: set.lastClose,
        outline: JSON.parse(set.outline) as number[],
        served: source.served === 1,
        checkedAt: source.checkedAt,
        checkProblem: source.checkProblem,
        updatedAt: source.updatedAt,
      });
    }
    return rows.flatMap((row) => {
      const own = byMarket.get(row.id) ?? [];
      const main = own.find((source) => source.isDefault);
      if (main === undefined) return [];
      return {
        id: row.id,
        symbol: row.symbol,
        name: row.name,
        kind: row.kind,
        currency: row.currency,
        sector: row.sector,
        spec: JSON.parse(row.spec) as MarketSpec,
        calendarId: row.calendarId,
        costs: JSON.parse(row.costs) as Costs,
        source: main.name,
        timeframe: main.timeframe,
        barsHash: main.barsHash,
        count: main.count,
        firstTime: main.firstTime,
        lastTime: main.lastTime,
        lastClose: main.lastClose,
        outline: main.outline,
        sources: own,
        deletedAt: row.deletedAt,
      };
    });
  }

  /** All markets that are not deleted, by symbol. */
  async list(): Promise<MarketView[]> {
    return this.views(await this.db.select().from(markets).where(isNull(markets.deletedAt)).orderBy(asc(markets.symbol)));
  }

  async bySymbol(symbol: string): Promise<MarketView | null> {
    const rows = await this.db
      .select()
      .from(markets)
      .where(and(eq(markets.symbol, symbol), isNull(markets.deletedAt)));
    return (await this.views(rows))[0] ?? null;
  }

  /** The market of a symbol; refused where there is none. */
  async need(symbol: string): Promise<MarketView> {
    return (await this.bySymbol(symbol)) ?? refuse("symbol", `there is no market ${symbol}`, 404);
  }

  /** Reads what a trader says of a market: the specification, or every problem by its field. */
  private async checked(given: MarketFields, own: number | null): Promise<{ spec: MarketSpec; problems: DocumentProblem[] }> {
    const session = given.calendarId ? await this.sessionOf(given.calendarId) : (given.session ?? null);
    const read = readMarket({
      format: "canyon.market/1",
      symbol: given.symbol,
      tick: given.tick,
      pointValue: given.pointValue,
      ...(given.unitStep === undefined ? {} : { unitStep: given.unitStep }),
      ...(given.minUnits === undefined ? {} : { minUnits: given.minUnits }),
      session,
      margin: given.margin ?? null,
    });
    const problems = [...(read.problems ?? [])];
    if (given.name.trim() === "") problems.push({ path: "name", message: "name is required" });
    if (!(MARKET_KINDS as readonly string[]).includes(given.kind))
      problems.push({ path: "kind", message: `kind must be one of ${MARKET_KINDS.join(", ")}` });
    if (!/^[A-Z]{3}$/.test(given.currency)) problems.push({ path: "currency", message: "currency must be three capital letters" });
    for (const [key, value] of Object.entries(given.costs ?? {}))
      if (!Number.isFinite(value) || (value < 0 && !key.startsWith("financing")))
        problems.push({ path: `costs.${key}`, message: "must be a number of 0 or more" });
    const other = await this.bySymbol(given.symbol);
    if (other !== null && other.id !== own)
      problems.push({ path: "symbol", message: `there is a market ${given.symbol} already; choose another symbol` });
    return { spec: read.value!, problems };
  }

  private async sessionOf(calendarId: number): Promise<MarketSpec["session"]> {
    const [row] = await this.db.select().from(calendars).where(eq(calendars.id, calendarId));
    if (row === undefined) return refuse("calendarId", "there is no such calendar");
    return JSON.parse(row.session) as MarketSpec["session"];
  }

  /** Stores a new market with its first source. */
  async add(given: NewMarket, bars: Bars, timeframe = "1d", more: { format?: string; served?: boolean } = {}): Promise<MarketView> {
    const { spec, problems } = await this.checked(given, null);
    if (given.source.trim() === "") problems.push({ path: "source", message: "source is required: where do the bars come from?" });
    if (bars.length < 2) problems.push({ path: "file", message: "fewer than two bars are left" });
    if (problems.length > 0) throw new Refused(problems);
    const { hash, statements } = await storeBars(this.db, bars);
    const [first, ...rest] = [...statements, ...(await this.newMarketStatements(given, spec, hash, timeframe, bars.length, 0, more))];
    await this.db.batch([first, ...rest]);
    return this.need(spec.symbol);
  }

  /** Checks a new market without storing it. */
  async check(given: NewMarket): Promise<DocumentProblem[]> {
    const { problems } = await this.checked(given, null);
    if (given.source.trim() === "") problems.push({ path: "source", message: "source is required: where do the bars come from?" });
    return problems;
  }

  /** The statements that write a market that was checked, its bars being stored in the same batch. */
  async newMarketStatements(
    given: NewMarket,
    known: MarketSpec | null,
    hash: string,
    timeframe: string,
    count: number,
    rejected: number,
    more: { format?: string; served?: boolean; note?: string },
  ) {
    const spec = known ?? (await this.checked(given, null)).spec;
    const now = Date.now();
    const next = async (table: string) =>
      Number((await this.db.$client.execute(`SELECT COALESCE(MAX(id), 0) + 1 AS next FROM ${table}`)).rows[0].next);
    const id = await next("markets");
    const sourceId = await next("sources");
    return [
      this.db.insert(markets).values({
        id,
        symbol: spec.symbol,
        name: given.name.trim(),
        kind: given.kind,
        currency: given.currency,
        sector: given.sector?.trim() ?? "",
        spec: JSON.stringify(spec),
        calendarId: given.calendarId ?? null,
        costs: JSON.stringify({ ...NO_COSTS, ...given.costs }),
        createdAt: now,
      }),
      this.db.insert(sources).values({
        id: sourceId,
        marketId: id,
        name: given.source.trim(),
        isDefault: 1,
        timeframe,
        barsHash: hash,
        rawHash: hash,
        format: more.format ?? null,
        served: more.served ? 1 : 0,
        updatedAt: now,
      }),
      this.db.insert(sourceChanges).values({
        sourceId,
        at: now,
        what: "created",
        added: count,
        changed: 0,
        rejected,
        rawBefore: null,
        rawAfter: hash,
        note: more.note ?? "",
      }),
    ];
  }

  /** Changes what is said of a market. The symbol stays: stored runs speak of it. */
  async update(symbol: string, given: MarketFields): Promise<void> {
    const market = await this.need(symbol);
    const { spec, problems } = await this.checked({ ...given, symbol }, market.id);
    if (problems.length > 0) throw new Refused(problems);
    await this.db
      .update(markets)
      .set({
        name: given.name.trim(),
        kind: given.kind,
        currency: given.currency,
        sector: given.sector?.trim() ?? "",
        spec: JSON.stringify(spec),
        calendarId: given.calendarId ?? null,
        costs: JSON.stringify({ ...NO_COSTS, ...given.costs }),
      })
      .where(eq(markets.id, market.id));
  }

  /** Takes a market out of every list; its bars and what rests on them stay, and it can be brought back. */
  async remove(symbol: string): Promise<void> {
    const market = await this.need(symbol);
    await this.db.update(markets).set({ deletedAt: Date.now() }).where(eq(markets.id, market.id));
  }

  /** Brings a removed market back, unless another one bears its symbol by now. */
  async restore(id: number): Promise<string> {
    const [row] = await this.db.select().from(markets).where(eq(markets.id, id));
    if (row === undefined) return refuse("market", "there is no such market", 404);
    if (row.deletedAt === null) return row.symbol;
    if (await this.bySymbol(row.symbol)) refuse("symbol", `another market is called ${row.symbol} by now`);
    await this.db.update(markets).set({ deletedAt: null }).where(eq(markets.id, id));
    return row.symbol;
  }
}

/** Which of the settings' markets are gone, or have other bars by now. */
export async function settingsState(
  list: Markets,
  given: readonly { symbol: string; bars: string }[],
): Promise<{ gone: string[]; changed: string[] }> {
  const gone: string[] = [];
  const changed: string[] = [];
  for (const market of given) {
    const now = await list.bySymbol(market.symbol);
    if (now === null) gone.push(market.symbol);
    else if (!now.sources.some((source) => source.barsHash === market.bars)) changed.push(market.symbol);
  }
  return { gone, changed };
}

/** A few bars from the start and the end, for a preview. */
export function someBars(bars: Bars): ({ time: number } & BarFigures)[] {
  const row = (i: number) => ({ time: bars.time[i], ...barAt(bars, i) });
  return bars.length <= 8
    ? Array.from({ length: bars.length }, (_, i) => row(i))
    : [0, 1, 2, 3, bars.length - 3, bars.length - 2, bars.length - 1].map(row);
}
