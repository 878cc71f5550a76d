import { and, asc, eq } from "drizzle-orm";
import { readSeriesCsv, type DatedSeries } from "#core/bars";
import type { Strategy } from "#core/documents";
import { compileStrategy } from "#core/engine";
import type { Database } from "./db/open";
import { extraSeries } from "./db/schema";
import type { Markets } from "./markets";
import { refuse } from "./problem";

export interface ExtraSeriesView {
  id: number;
  marketId: number;
  symbol: string;
  name: string;
  origin: string;
  points: DatedSeries;
  updatedAt: number;
}

const NAME = /^[A-Za-z][A-Za-z0-9_]*$/;

/** Dated values beside the prices of a market, each valid from its date on. */
export class ExtraSeriesStore {
  constructor(
    private readonly db: Database,
    private readonly markets: Markets,
  ) {}

  async ofMarket(symbol: string): Promise<ExtraSeriesView[]> {
    const market = await this.markets.need(symbol);
    const rows = await this.db.select().from(extraSeries).where(eq(extraSeries.marketId, market.id)).orderBy(asc(extraSeries.name));
    return rows.map((row) => ({ ...row, symbol, points: JSON.parse(row.points) as DatedSeries }));
  }

  /** Stores values under a name; those of the same date are replaced, the others stay. */
  async store(symbol: string, name: string, points: DatedSeries, origin: string): Promise<void> {
    const market = await this.markets.need(symbol);
    if (!NAME.test(name)) return refuse("name", "a series' name starts with a letter and holds letters, digits and _");
    const [row] = await this.db
      .select()
      .from(extraSeries)
      .where(and(eq(extraSeries.marketId, market.id), eq(extraSeries.name, name)));
    const merged = new Map<number, number>();
    if (row !== undefined) {
      const held = JSON.parse(row.points) as DatedSeries;
      held.time.forEach((time, i) => merged.set(time, held.value[i]));
    }
    points.time.forEach((time, i) => merged.set(time, points.value[i]));
    const times = [...merged.keys()].sort((a, b) => a - b);
    const json = JSON.stringify({ time: times, value: times.map((time) => merged.get(time)!) });
    const updatedAt = Date.now();
    await this.db
      .insert(extraSeries)
      .values({ marketId: market.id, name, points: json, origin, updatedAt })
      .onConflictDoUpdate({ target: [extraSeries.marketId, extraSeries.name], set: { points: json, origin, updatedAt } });
  }

  /**
   * Imports CSV text: `date,value` for one market, or wide, one column a symbol. All or nothing. Gives how many values came
   * to which markets.
   */
  async importCsv(name: string, text: string, symbol: string | null): Promise<Record<string, number>> {
    const read = readSeriesCsv(text);
    if (read.fatal !== null) return refuse("file", `nothing was imported: ${read.fatal}`);
    if (read.problems.length > 0)
      return refuse(
        "file",
        `nothing was imported: line ${read.problems[0].line}: ${read.problems[0].message}${read.problems.length > 1 ? `, and ${read.problems.length - 1} more` : ""}`,
      );
    const columns = Object.entries(read.columns);
    const targets: [string, DatedSeries][] = [];
    if (columns.length === 1 && columns[0][0].toLowerCase() === "value") {
      if (symbol === null) return refuse("market", "which market do these values belong to?");
      targets.push([symbol, columns[0][1]]);
    } else targets.push(...columns);
    const known = new Set((await this.markets.list()).map((market) => market.symbol));
    const unknown = targets.map(([column]) => column).filter((column) => !known.has(column));
    if (unknown.length > 0) return refuse("file", `nothing was imported: no market is called ${unknown.join(", ")}`);
    if (!NAME.test(name)) return refuse("name", "a series' name starts with a letter and holds letters, digits and _");
    const counts: Record<string, number> = {};
    for (const [column, points] of targets) {
      await this.store(column, name, points, "a file");
      counts[column] = points.time.length;
    }
    return counts;
  }

  /** Puts the extra series that strategies name into run settings, where the settings don't hold them already. */
  async complete(given: unknown, strategies: readonly Strategy[]): Promise<unknown> {
    const names = new Set(strategies.flatMap((strategy) => compileStrategy(strategy).value?.extras ?? []));
    const held = (given as { markets?: unknown } | null)?.markets;
    if (names.size === 0 || !Array.isArray(held)) return given;
    const complete = await Promise.all(
      (held as { symbol?: string; series?: Record<string, unknown> }[]).map(async (market) => {
        const missing = [...names].filter((name) => market.series?.[name] === undefined);
        if (missing.length === 0 || typeof market.symbol !== "string" || (await this.markets.bySymbol(market.symbol)) === null)
          return market;
        const own = await this.ofMarket(market.symbol);
        const found = own.filter((one) => missing.includes(one.name)).map((one): [string, DatedSeries] => [one.name, one.points]);
        return found.length === 0 ? market : { ...market, series: { ...market.series, ...Object.fromEntries(found) } };
      }),
    );
    return { ...(given as object), markets: complete };
  }

  async remove(id: number): Promise<void> {
    await this.db.delete(extraSeries).where(eq(extraSeries.id, id));
  }
}
