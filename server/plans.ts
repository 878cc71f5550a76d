import { and, asc, eq, isNull } from "drizzle-orm";
import type { Settings } from "#core/documents";
import type { Search } from "#core/optimize";
import type { Database } from "./db/open";
import { plans } from "./db/schema";
import { Refused, refuse } from "./problem";

/** A set-up of an optimization as it was stored: what is searched, on what, and how much of the dates it may see. */
export interface PlanDocument {
  search: Search;
  settings: Settings;
  /** in-sample share of the dates, in percent, as typed */
  share: string;
  /** exclusion list whose markets are left out; null for none */
  without: number | null;
}

export interface PlanView {
  id: number;
  strategyId: number;
  name: string;
  document: PlanDocument;
  updatedAt: number;
}

/** Named set-ups of optimizations, by the strategy whose parameters they vary. */
export class Plans {
  constructor(private readonly db: Database) {}

  private view = (row: typeof plans.$inferSelect): PlanView => ({
    id: row.id,
    strategyId: row.strategyId,
    name: row.name,
    document: JSON.parse(row.document) as PlanDocument,
    updatedAt: row.updatedAt,
  });

  async list(strategyId?: number): Promise<PlanView[]> {
    const of = strategyId === undefined ? undefined : eq(plans.strategyId, strategyId);
    const rows = await this.db
      .select()
      .from(plans)
      .where(and(isNull(plans.deletedAt), of))
      .orderBy(asc(plans.name));
    return rows.map(this.view);
  }

  async get(id: number): Promise<PlanView | null> {
    const [row] = await this.db.select().from(plans).where(eq(plans.id, id));
    return row === undefined || row.deletedAt !== null ? null : this.view(row);
  }

  /** Stores a set-up under a name; one of the same name is replaced, since that is what saving again means. Gives its number. */
  async save(strategyId: number, name: string, document: PlanDocument): Promise<number> {
    const trimmed = name.trim();
    if (trimmed === "") throw new Refused([{ path: "name", message: "a plan needs a name" }]);
    const now = Date.now();
    const known = (await this.list(strategyId)).find((plan) => plan.name === trimmed);
    const text = JSON.stringify(document);
    if (known !== undefined) {
      await this.db.update(plans).set({ document: text, updatedAt: now }).where(eq(plans.id, known.id));
      return known.id;
    }
    const [{ id }] = await this.db
      .insert(plans)
      .values({ strategyId, name: trimmed, document: text, createdAt: now, updatedAt: now })
      .returning({ id: plans.id });
    return id;
  }

  async remove(id: number): Promise<void> {
    if ((await this.get(id)) === null) refuse("plan", "this plan does not exist any more", 404);
    await this.db.update(plans).set({ deletedAt: Date.now() }).where(eq(plans.id, id));
  }

  async restore(id: number): Promise<void> {
    await this.db.update(plans).set({ deletedAt: null }).where(eq(plans.id, id));
  }
}
