import { asc, eq, isNull } from "drizzle-orm";
import type { Database } from "./db/open";
import { lists } from "./db/schema";
import type { ListRule } from "./list-symbols";
import type { Markets } from "./markets";
import { Refused, refuse } from "./problem";

export interface MarketList {
  id: number;
  name: string;
  kind: "watch" | "exclude";
  rule: ListRule;
  /** the symbols that it comes to */
  symbols: string[];
  updatedAt: number;
}

/** Watchlists and exclusion lists of markets. */
export class MarketLists {
  constructor(
    private readonly db: Database,
    private readonly markets: Markets,
  ) {}

  async list(): Promise<MarketList[]> {
    const rows = await this.db.select().from(lists).where(isNull(lists.deletedAt)).orderBy(asc(lists.name));
    const rules = new Map(rows.map((row) => [row.id, JSON.parse(row.rule) as ListRule]));
    const resolve = (id: number, above: readonly number[]): Set<string> => {
      const rule = rules.get(id);
      const out = new Set(rule?.symbols ?? []);
      if (rule === undefined || above.includes(id)) return out;
      for (const other of rule.plus) for (const symbol of resolve(other, [...above, id])) out.add(symbol);
      for (const other of rule.minus) for (const symbol of resolve(other, [...above, id])) out.delete(symbol);
      return out;
    };
    return rows.map((row) => ({
      id: row.id,
      name: row.name,
      kind: row.kind as MarketList["kind"],
      rule: rules.get(row.id)!,
      symbols: [...resolve(row.id, [])].sort(),
      updatedAt: row.updatedAt,
    }));
  }

  async get(id: number): Promise<MarketList | null> {
    return (await this.list()).find((list) => list.id === id) ?? null;
  }

  private async check(id: number | null, name: string, kind: string, rule: ListRule): Promise<void> {
    const problems: { path: string; message: string }[] = [];
    const all = await this.list();
    if (name.trim() === "") problems.push({ path: "name", message: "name is required" });
    if (all.some((list) => list.name === name.trim() && list.id !== id))
      problems.push({ path: "name", message: `there is a list “${name.trim()}” already` });
    if (kind !== "watch" && kind !== "exclude") problems.push({ path: "kind", message: "a list is for watching or for leaving out" });
    const known = new Set((await this.markets.list()).map((market) => market.symbol));
    const unknown = rule.symbols.filter((symbol) => !known.has(symbol));
    if (unknown.length > 0)
      problems.push({
        path: "symbols",
        message: `there ${unknown.length === 1 ? "is no market" : "are no markets"} ${unknown.join(", ")}`,
      });
    const reaches = (from: number): boolean =>
      from === id ||
      (all.find((list) => list.id === from)?.rule.plus ?? []).concat(all.find((list) => list.id === from)?.rule.minus ?? []).some(reaches);
    if (id !== null && [...rule.plus, ...rule.minus].some(reaches))
      problems.push({ path: "plus", message: "a list can't be made of itself" });
    if (problems.length > 0) throw new Refused(problems);
  }

  async create(name: string, kind: string, rule: ListRule): Promise<number> {
    await this.check(null, name, kind, rule);
    const now = Date.now();
    const [row] = await this.db
      .insert(lists)
      .values({ name: name.trim(), kind, rule: JSON.stringify(rule), createdAt: now, updatedAt: now })
      .returning({ id: lists.id });
    return row.id;
  }

  async update(id: number, name: string, kind: string, rule: ListRule): Promise<void> {
    if ((await this.get(id)) === null) return refuse("list", "there is no such list", 404);
    await this.check(id, name, kind, rule);
    await this.db
      .update(lists)
      .set({ name: name.trim(), kind, rule: JSON.stringify(rule), updatedAt: Date.now() })
      .where(eq(lists.id, id));
  }

  async remove(id: number): Promise<void> {
    const used = (await this.list()).filter((list) => [...list.rule.plus, ...list.rule.minus].includes(id));
    if (used.length > 0)
      return refuse("list", `${used.map((list) => `“${list.name}”`).join(", ")} is made of this list; change that first`);
    await this.db.update(lists).set({ deletedAt: Date.now() }).where(eq(lists.id, id));
  }

  async restore(id: number): Promise<void> {
    const [row] = await this.db.select().from(lists).where(eq(lists.id, id));
    if (row === undefined) return refuse("list", "there is no such list", 404);
    if ((await this.list()).some((list) => list.name === row.name)) return refuse("name", `another list is called “${row.name}” by now`);
    await this.db.update(lists).set({ deletedAt: null }).where(eq(lists.id, id));
  }
}
