import { and, asc, desc, eq, isNull } from "drizzle-orm";
import type { Bars } from "#core/bars";
import { readSettings, type Settings } from "#core/documents";
import { prepareRun, simulate, type RunMember, type Simulation } from "#core/engine";
import {
  fitWeights,
  portfolioDifference,
  portfolioFingerprint,
  portfolioParts,
  prepareMembers,
  weightingFaults,
  weightProblems,
  withWeights,
  wholeRun,
  type Account,
  type FittedWeights,
  type Member,
  type PortfolioResult,
  type Weighting,
} from "#core/portfolio";
import { switched } from "#core/regimes";
import { settingsDifference } from "#core/reading";
import { resultOf } from "#core/runs";
import type { BarCache } from "./bar-store";
import type { Database } from "./db/open";
import { portfolios, portfolioVersions } from "./db/schema";
import type { ExtraSeriesStore } from "./extra-series";
import type { Markets } from "./markets";
import { portfolioDocument, type PortfolioDocument, type PortfolioMember } from "./portfolio-document";
import { Refused, refuse } from "./problem";
import type { Strategies, VersionView } from "./strategies";

export interface PortfolioView {
  id: number;
  name: string;
  revision: number;
  document: PortfolioDocument;
  updatedAt: number;
}

/** A saved state of a portfolio, and what changed from the one before, in words. */
export interface PortfolioVersion {
  number: number;
  name: string;
  note: string;
  document: PortfolioDocument;
  changes: string[];
  createdAt: number;
}

/** A portfolio that was run: all that its pages are made of. */
export interface ComputedPortfolio {
  document: PortfolioDocument;
  members: Member[];
  versions: VersionView[];
  account: Account;
  /** in the order of the settings' markets */
  bars: Bars[];
  fitted: FittedWeights[];
  simulation: Simulation;
  /** each member alone on the whole account */
  alone: Simulation[];
  fingerprint: string;
  result: PortfolioResult;
}

/** What a page hands in to be saved. */
export type GivenPortfolio = Pick<PortfolioDocument, "members"> & { settings: unknown; weighting?: Weighting };

const KEPT = 6;

/** Versions on one account: stored under names with all their states, computed when they are looked at. */
export class Portfolios {
  private readonly computed = new Map<string, Promise<ComputedPortfolio>>();

  constructor(
    private readonly db: Database,
    private readonly bars: BarCache,
    private readonly strategies: Strategies,
    private readonly series: ExtraSeriesStore,
    private readonly markets: Markets,
  ) {}

  private view = (row: typeof portfolios.$inferSelect): PortfolioView => ({
    id: row.id,
    name: row.name,
    revision: row.revision,
    document: portfolioDocument(row.document),
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

  /** Reads what is handed in; refuses with everything that is wrong with it. */
  private async check(name: string, given: GivenPortfolio): Promise<PortfolioDocument> {
    const problems = name.trim() === "" ? [{ path: "name", message: "a portfolio needs a name" }] : [];
    const members = given.members ?? [];
    const weighting = given.weighting ?? { mode: "given" };
    if (members.length < 2) problems.push({ path: "members", message: "a portfolio needs two members or more" });
    else if (weighting.mode === "given") problems.push(...weightProblems(members));
    problems.push(...weightingFaults(weighting, members));
    const settings = readSettings(await this.completed(given));
    problems.push(...settings.problems.map((p) => ({ ...p, path: `settings.${p.path}` })), ...(await this.currencyProblems(members)));
    if (problems.length > 0 || settings.value === null) throw new Refused(problems);
    return { members, settings: settings.value, weighting };
  }

  private async completed(given: GivenPortfolio): Promise<unknown> {
    const versions = await Promise.all((given.members ?? []).map((member) => this.strategies.version(member.versionId)));
    return this.series.complete(
      given.settings,
      versions.flatMap((version) => (version === null ? [] : [version.strategy])),
    );
  }

  /** One account has one currency. */
  private async currencyProblems(members: readonly PortfolioMember[]) {
    const currency = new Map((await this.markets.list()).map((market) => [market.symbol, market.currency]));
    const first = members.flatMap(({ markets }) => markets).find((symbol) => currency.has(symbol));
    const own = first === undefined ? null : currency.get(first)!;
    return members.flatMap((member, i) =>
      member.markets.flatMap((symbol) => {
        const other = currency.get(symbol);
        return other === undefined || other === own
          ? []
          : [
              {
                path: `members[${i}].markets`,
                message: `${symbol} is quoted in ${other} and ${first} in ${own}; one account has one currency`,
              },
            ];
      }),
    );
  }

  async create(name: string, given: GivenPortfolio, note = ""): Promise<number> {
    const document = await this.check(name, given);
    await this.compute(document);
    const now = Date.now();
    const text = JSON.stringify(document);
    const [row] = await this.db
      .insert(portfolios)
      .values({ name: name.trim(), document: text, revision: 1, createdAt: now, updatedAt: now })
      .returning({ id: portfolios.id });
    await this.db
      .insert(portfolioVersions)
      .values({ portfolioId: row.id, number: 1, name: name.trim(), document: text, note: note.trim(), createdAt: now });
    return row.id;
  }

  /** Stores a change as the next state; refuses where another window stored one meanwhile. */
  async save(id: number, revision: number, name: string, given: GivenPortfolio, note = ""): Promise<void> {
    const document = await this.check(name, given);
    await this.compute(document);
    const before = await this.get(id);
    if (before === null) return refuse("portfolio", "this portfolio was taken out meanwhile", 404);
    const now = Date.now();
    const text = JSON.stringify(document);
    const changed = await this.db
      .update(portfolios)
      .set({ name: name.trim(), document: text, revision: revision + 1, updatedAt: now })
      .where(and(eq(portfolios.id, id), eq(portfolios.revision, revision)));
    if (changed.rowsAffected === 0)
      refuse(
        "portfolio",
        "this portfolio was changed meanwhile, in another window perhaps; your change is kept here and not saved yet",
        409,
      );
    const held = await this.db.select({ id: portfolioVersions.id }).from(portfolioVersions).where(eq(portfolioVersions.portfolioId, id));
    const state = (number: number, called: string, body: string, why: string) =>
      this.db.insert(portfolioVersions).values({ portfolioId: id, number, name: called, document: body, note: why, createdAt: now });
    // a portfolio from before states were kept has none of its first one
    if (held.length === 0) await state(revision, before.name, JSON.stringify(before.document), "");
    await state(revision + 1, name.trim(), text, note.trim());
  }

  /** All states, newest first; the oldest has no changes. */
  async versions(id: number): Promise<PortfolioVersion[]> {
    const rows = await this.db
      .select()
      .from(portfolioVersions)
      .where(eq(portfolioVersions.portfolioId, id))
      .orderBy(asc(portfolioVersions.number));
    const labels = new Map<number, string>();
    const label = async (versionId: number) => {
      if (!labels.has(versionId)) labels.set(versionId, `version ${(await this.strategies.version(versionId))?.number ?? "that is gone"}`);
      return labels.get(versionId)!;
    };
    const described = await Promise.all(
      rows.map(async (row) => {
        const document = portfolioDocument(row.document);
        const members = await Promise.all(document.members.map(async (member) => ({ ...member, version: await label(member.versionId) })));
        return { name: row.name, members, weighting: document.weighting, document };
      }),
    );
    return rows
      .map((row, i): PortfolioVersion => {
        const settings = i === 0 ? [] : settingsDifference(described[i - 1].document.settings, described[i].document.settings);
        return {
          number: row.number,
          name: row.name,
          note: row.note,
          document: described[i].document,
          changes: i === 0 ? [] : [...portfolioDifference(described[i - 1], described[i]), ...settings.map(differenceText)],
          createdAt: row.createdAt,
        };
      })
      .reverse();
  }

  async remove(id: number): Promise<void> {
    await this.db.update(portfolios).set({ deletedAt: Date.now() }).where(eq(portfolios.id, id));
  }

  async restore(id: number): Promise<void> {
    await this.db.update(portfolios).set({ deletedAt: null }).where(eq(portfolios.id, id));
  }

  /** Runs a portfolio, and each member alone under the same settings. */
  compute(document: PortfolioDocument): Promise<ComputedPortfolio> {
    const key = JSON.stringify(document);
    let known = this.computed.get(key);
    if (known === undefined) {
      known = this.computeAnew(document);
      known.catch(() => this.computed.delete(key));
      this.computed.set(key, known);
      if (this.computed.size > KEPT) this.computed.delete(this.computed.keys().next().value!);
    }
    return known;
  }

  private async computeAnew(document: PortfolioDocument): Promise<ComputedPortfolio> {
    const { settings, weighting } = document;
    const bars = await this.bars.all(settings.markets.map((market) => market.bars));
    const versions: VersionView[] = [];
    const given: Member[] = [];
    for (const [i, member] of document.members.entries()) {
      const version = await this.strategies.version(member.versionId);
      if (version === null)
        return refuse(`members[${i}]`, `the version of “${member.name}” does not exist any more; take it out or choose another`);
      versions.push(version);
      given.push(memberOf(member, version));
    }
    const fitted = fitWeights(given, weighting, settings, bars);
    if (fitted.value === null) throw new Refused(fitted.problems);
    const members = withWeights(given, fitted.value);
    const prepared = prepareMembers(members, settings, bars);
    if (prepared.value === null) throw new Refused(prepared.problems);
    const account: Account = { prepared: prepared.value, settings };
    const simulation = simulate(wholeRun(account), { record: true, members: true });
    const alone = prepared.value.runMembers.map((member) => simulate(aloneRun(account, member), { members: true }));
    const fingerprint = portfolioFingerprint(members, settings, bars);
    return {
      document,
      members,
      versions,
      account,
      bars,
      fitted: fitted.value,
      simulation,
      alone,
      fingerprint,
      result: { ...resultOf(simulation, fingerprint), ...portfolioParts(simulation) },
    };
  }
}

/** A member alone on the whole account. */
export function aloneRun({ prepared, settings }: Account, { steps: _steps, ...member }: RunMember) {
  const run = prepareRun([{ ...member, weight: 1 }], settings, prepared.markets);
  if (run.value === null) throw new Refused(run.problems);
  return run.value;
}

/** A member as the core runs it: its condition is part of its rules. */
export const memberOf = (member: PortfolioMember, { strategy }: VersionView): Member => ({
  name: member.name,
  strategy: member.condition === undefined ? strategy : switched(strategy, member.condition),
  markets: member.markets,
  weight: member.weight,
  ...(member.marketLimit === undefined ? {} : { marketLimit: member.marketLimit }),
});

const differenceText = (one: ReturnType<typeof settingsDifference>[number]): string =>
  `${one.what}: ${one.before ?? "–"} → ${one.now ?? "–"}.`;

export type { PortfolioDocument, PortfolioMember, Settings };
