import { and, desc, eq, isNull } from "drizzle-orm";
import { readSettings, type Settings } from "#core/documents";
import { runPortfolio, weightProblems, type Member, type PortfolioResult } from "#core/portfolio";
import { backtest } from "#core/runs";
import type { BarCache } from "./bar-store";
import type { Database } from "./db/open";
import { portfolios } from "./db/schema";
import type { ExtraSeriesStore } from "./extra-series";
import { Refused, refuse } from "./problem";
import type { Strategies } from "./strategies";

export interface PortfolioMember {
  versionId: number;
  name: string;
  markets: string[];
  weight: number;
}

export interface PortfolioDocument {
  members: PortfolioMember[];
  settings: Settings;
}

export interface PortfolioView {
  id: number;
  name: string;
  revision: number;
  document: PortfolioDocument;
  updatedAt: number;
}

export interface PortfolioComputed {
  result: PortfolioResult;
  /** each member alone on the whole account, for comparison */
  alone: { name: string; equity: number[]; time: string[]; metrics: PortfolioResult["metrics"]["all"] }[];
}

export class Portfolios {
  private readonly computed = new Map<string, PortfolioComputed>();

  constructor(
    private readonly db: Database,
    private readonly bars: BarCache,
    private readonly strategies: Strategies,
    private readonly series: ExtraSeriesStore,
  ) {}

  private view = (row: typeof portfolios.$inferSelect): PortfolioView => ({
    id: row.id,
    name: row.name,
    revision: row.revision,
    document: JSON.parse(row.document) as PortfolioDocument,
    updatedAt: row.updatedAt,
  });

  async list(): Promise<PortfolioView[]> {
    return (await this.db.select().from(portfolios).where(isNull(portfolios.deletedAt)).orderBy(desc(portfolios.updatedAt))).map(this.view);
  }

  async get(id: number): Promise<PortfolioView | null> {
    const [row] = await this.db
      .select()
      .from(portfolios)
      .where(and(eq(portfolios.id, id), isNull(portfolios.deletedAt)));
    return row === undefined ? null : this.view(row);
  }

  private check(name: string, given: { members: PortfolioMember[]; settings: unknown }): PortfolioDocument {
    const problems = name.trim() === "" ? [{ path: "name", message: "a portfolio needs a name" }] : [];
    if (given.members.length < 2) problems.push({ path: "members", message: "a portfolio needs two members or more" });
    else problems.push(...weightProblems(given.members));
    const settings = readSettings(given.settings);
    problems.push(...settings.problems.map((p) => ({ ...p, path: `settings.${p.path}` })));
    if (problems.length > 0 || settings.value === null) throw new Refused(problems);
    return { members: given.members, settings: settings.value };
  }

  private async completed(given: { members: PortfolioMember[]; settings: unknown }) {
    const versions = await Promise.all((given.members ?? []).map((member) => this.strategies.version(member.versionId)));
    return {
      ...given,
      settings: await this.series.complete(
        given.settings,
        versions.flatMap((version) => (version === null ? [] : [version.strategy])),
      ),
    };
  }

  async create(name: string, given: { members: PortfolioMember[]; settings: unknown }): Promise<number> {
    const document = this.check(name, await this.completed(given));
    await this.compute(document);
    const now = Date.now();
    const [row] = await this.db
      .insert(portfolios)
      .values({ name: name.trim(), document: JSON.stringify(document), revision: 1, createdAt: now, updatedAt: now })
      .returning({ id: portfolios.id });
    return row.id;
  }

  /** Stores a change; refuses where another window stored one meanwhile. */
  async save(id: number, revision: number, name: string, given: { members: PortfolioMember[]; settings: unknown }): Promise<void> {
    const document = this.check(name, await this.completed(given));
    await this.compute(document);
    const changed = await this.db
      .update(portfolios)
      .set({ name: name.trim(), document: JSON.stringify(document), revision: revision + 1, updatedAt: Date.now() })
      .where(and(eq(portfolios.id, id), eq(portfolios.revision, revision)));
    if (changed.rowsAffected === 0)
      refuse(
        "portfolio",
        "this portfolio was changed meanwhile, in another window perhaps; your change is kept here and not saved yet",
        409,
      );
  }

  async remove(id: number): Promise<void> {
    await this.db.update(portfolios).set({ deletedAt: Date.now() }).where(eq(portfolios.id, id));
  }

  async restore(id: number): Promise<void> {
    await this.db.update(portfolios).set({ deletedAt: null }).where(eq(portfolios.id, id));
  }

  /** Runs the members together, and each alone under the same settings. */
  async compute(document: PortfolioDocument): Promise<PortfolioComputed> {
    const key = JSON.stringify(document);
    const known = this.computed.get(key);
    if (known !== undefined) return known;
    const { settings } = document;
    const bars = await this.bars.all(settings.markets.map((market) => market.bars));
    const members: Member[] = [];
    for (const member of document.members) {
      const version = await this.strategies.version(member.versionId);
      if (version === null) return refuse("members", `the version of “${member.name}” does not exist any more`);
      members.push({ name: member.name, strategy: version.strategy, markets: member.markets, weight: member.weight });
    }
    const { result, problems } = runPortfolio(members, settings, bars);
    if (result === null) throw new Refused(problems);
    const alone = members.map((member) => {
      const indices = member.markets!.map((symbol) => settings.markets.findIndex((market) => market.symbol === symbol));
      const own = { ...settings, markets: indices.map((i) => settings.markets[i]), benchmark: null };
      const outcome = backtest(
        member.strategy,
        own,
        indices.map((i) => bars[i]),
      );
      if (outcome.result === null) throw new Refused(outcome.problems);
      return {
        name: member.name,
        equity: outcome.result.equity.equity,
        time: outcome.result.equity.time,
        metrics: outcome.result.metrics.all,
      };
    });
    const computed = { result, alone };
    this.computed.set(key, computed);
    if (this.computed.size > 8) this.computed.delete(this.computed.keys().next().value!);
    return computed;
  }
}
