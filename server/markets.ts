import { and, asc, eq, isNull } from "drizzle-orm";
import { readBarsCsv, type Bars, type LineProblem, type MarketSpec } from "#core/bars";
import { NO_COSTS, readMarket, type Costs, type Settings, type SettingsMarket } from "#core/documents";
import { storeBars } from "./bar-store";
import type { Database } from "./db/open";
import { barSets, markets, sources } from "./db/schema";
import { Refused, refuse } from "./problem";

/** A market with its default source, as lists and pages show it. */
export interface MarketView {
  id: number;
  symbol: string;
  name: string;
  kind: string;
  currency: string;
  spec: MarketSpec;
  costs: Costs;
  source: string;
  timeframe: string;
  barsHash: string;
  count: number;
  firstTime: number;
  lastTime: number;
  lastClose: number;
  outline: number[];
  deletedAt: number | null;
}

export const MARKET_KINDS = ["share", "future", "currency", "index", "bond", "option"] as const;

export interface NewMarket {
  symbol: string;
  name: string;
  kind: string;
  currency: string;
  tick: number;
  pointValue: number;
  source: string;
}

/** What a file of bars holds, before anything is stored. */
export interface ImportPreview {
  count: number;
  first: number | null;
  last: number | null;
  rows: { time: number; open: number; high: number; low: number; close: number; volume: number }[];
  problems: LineProblem[];
  fatal: string | null;
}

export class Markets {
  constructor(private readonly db: Database) {}

  private view = (row: {
    markets: typeof markets.$inferSelect;
    sources: typeof sources.$inferSelect;
    bar_sets: typeof barSets.$inferSelect;
  }): MarketView => ({
    id: row.markets.id,
    symbol: row.markets.symbol,
    name: row.markets.name,
    kind: row.markets.kind,
    currency: row.markets.currency,
    spec: JSON.parse(row.markets.spec) as MarketSpec,
    costs: JSON.parse(row.markets.costs) as Costs,
    source: row.sources.name,
    timeframe: row.sources.timeframe,
    barsHash: row.sources.barsHash,
    count: row.bar_sets.count,
    firstTime: row.bar_sets.firstTime,
    lastTime: row.bar_sets.lastTime,
    lastClose: row.bar_sets.lastClose,
    outline: JSON.parse(row.bar_sets.outline) as number[],
    deletedAt: row.markets.deletedAt,
  });

  private query() {
    return this.db
      .select()
      .from(markets)
      .innerJoin(sources, and(eq(sources.marketId, markets.id), eq(sources.isDefault, 1)))
      .innerJoin(barSets, eq(barSets.hash, sources.barsHash));
  }

  /** All markets that are not deleted, by symbol. */
  async list(): Promise<MarketView[]> {
    const rows = await this.query().where(isNull(markets.deletedAt)).orderBy(asc(markets.symbol));
    return rows.map(this.view);
  }

  async bySymbol(symbol: string): Promise<MarketView | null> {
    const rows = await this.query().where(and(eq(markets.symbol, symbol), isNull(markets.deletedAt)));
    return rows.length === 0 ? null : this.view(rows[0]);
  }

  /** Reads a CSV file without storing anything. */
  preview(text: string): ImportPreview {
    const { bars, problems, fatal } = readBarsCsv(text);
    const row = (i: number) => ({
      time: bars.time[i],
      open: bars.open[i],
      high: bars.high[i],
      low: bars.low[i],
      close: bars.close[i],
      volume: bars.volume[i],
    });
    const shown =
      bars.length <= 8
        ? Array.from({ length: bars.length }, (_, i) => row(i))
        : [0, 1, 2, 3, bars.length - 3, bars.length - 2, bars.length - 1].map(row);
    return {
      count: bars.length,
      first: bars.length ? bars.time[0] : null,
      last: bars.length ? bars.time[bars.length - 1] : null,
      rows: shown,
      problems,
      fatal,
    };
  }

  /** Imports daily bars as a new market: all or nothing. Refuses while any line is broken, unless those lines are left out on purpose. */
  async importDaily(given: NewMarket, text: string, leaveOut: boolean): Promise<MarketView> {
    const { bars, problems, fatal } = readBarsCsv(text);
    if (fatal !== null) refuse("file", `nothing was imported: ${fatal}`);
    if (problems.length > 0 && !leaveOut)
      refuse(
        "file",
        `nothing was imported: ${problems.length} ${problems.length === 1 ? "line is" : "lines are"} broken; mend the file, or leave them out on purpose`,
      );
    if (bars.length < 2) refuse("file", "nothing was imported: fewer than two bars are left");
    const intraday = bars.time.findIndex((time) => time % 86_400_000 !== 0);
    if (intraday >= 0)
      refuse(
        "file",
        `nothing was imported: the bar of ${new Date(bars.time[intraday]).toISOString()} has a time of day; only daily bars can be imported in this version`,
      );
    return this.add({ ...given, costs: NO_COSTS }, bars);
  }

  /** Stores a new market with its first source. */
  async add(
    given: NewMarket & { costs?: Costs; session?: MarketSpec["session"]; margin?: MarketSpec["margin"] },
    bars: Bars,
  ): Promise<MarketView> {
    const read = readMarket({
      format: "canyon.market/1",
      symbol: given.symbol,
      tick: given.tick,
      pointValue: given.pointValue,
      session: given.session ?? null,
      margin: given.margin ?? null,
    });
    const problems = [...(read.problems ?? [])];
    if (given.name.trim() === "") problems.push({ path: "name", message: "name is required" });
    if (!(MARKET_KINDS as readonly string[]).includes(given.kind))
      problems.push({ path: "kind", message: `kind must be one of ${MARKET_KINDS.join(", ")}` });
    if (given.source.trim() === "") problems.push({ path: "source", message: "source is required: where do the bars come from?" });
    if (!/^[A-Z]{3}$/.test(given.currency)) problems.push({ path: "currency", message: "currency must be three capital letters" });
    if (await this.bySymbol(given.symbol))
      problems.push({ path: "symbol", message: `there is a market ${given.symbol} already; choose another symbol` });
    if (problems.length > 0) throw new Refused(problems);
    const now = Date.now();
    const { hash, statements } = storeBars(this.db, bars);
    const spec = read.value!;
    const id = (await this.db.$client.execute("SELECT COALESCE(MAX(id), 0) + 1 AS next FROM markets")).rows[0].next as number;
    await this.db.batch([
      ...statements,
      this.db.insert(markets).values({
        id,
        symbol: spec.symbol,
        name: given.name.trim(),
        kind: given.kind,
        currency: given.currency,
        spec: JSON.stringify(spec),
        costs: JSON.stringify(given.costs ?? NO_COSTS),
        createdAt: now,
      }),
      this.db
        .insert(sources)
        .values({ marketId: id, name: given.source.trim(), isDefault: 1, timeframe: "1d", barsHash: hash, updatedAt: now }),
    ]);
    return (await this.bySymbol(spec.symbol))!;
  }

  /** Takes a market out of every list; its bars and what rests on them stay, and it can be brought back. */
  async remove(symbol: string): Promise<void> {
    const market = await this.bySymbol(symbol);
    if (market === null) return refuse("symbol", `there is no market ${symbol}`, 404);
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

/** A market as run settings name it, bars by hash. */
export const settingsMarket = (market: MarketView): SettingsMarket => ({
  ...market.spec,
  bars: market.barsHash,
  timeframe: market.timeframe,
});

/** Which of the settings' markets are gone, or have other bars by now. */
export async function settingsState(list: Markets, settings: Settings): Promise<{ gone: string[]; changed: string[] }> {
  const gone: string[] = [];
  const changed: string[] = [];
  for (const market of settings.markets) {
    const now = await list.bySymbol(market.symbol);
    if (now === null) gone.push(market.symbol);
    else if (now.barsHash !== market.bars) changed.push(market.symbol);
  }
  return { gone, changed };
}
