import { desc } from "drizzle-orm";
import { formatDate, parseDate } from "#core/bars";
import { readSettings, type Settings } from "#core/documents";
import { prepareRun, simulate } from "#core/engine";
import { periodEnds, periodReturns, periodsPerYear } from "#core/metrics";
import {
  CHOICE_METHODS,
  CHOICE_OBJECTIVES,
  choose,
  correlations,
  groupsOf,
  joinFault,
  prepareMembers,
  stretchRow,
  type Choice,
  type ChoiceLimits,
  type ChoiceMethod,
  type ChoiceObjective,
  type ChoicePool,
  type Correlations,
  type StretchRow,
} from "#core/portfolio";
import type { Database } from "./db/open";
import { portfolioLooks } from "./db/schema";
import { poolOf, type PoolEntry } from "./portfolio-pool";
import { memberOf } from "./portfolios";
import { Refused } from "./problem";
import { sectorsOf } from "./sectors";
import type { Services } from "./services";

/** What is asked: how many of the library, by what, within which limits, on which dates; judged on later ones. */
export interface ChoosingPlan {
  count: number;
  method: ChoiceMethod;
  objective: ChoiceObjective;
  limits: ChoiceLimits;
  from: string;
  to: string;
  judgeTo: string;
  capital: number;
  drafts: boolean;
}

export interface ChoosingEntry {
  versionId: number;
  name: string;
  version: number;
  status: string;
  survivor: boolean;
  markets: string[];
  fit: StretchRow;
  judged: StretchRow;
}

export interface ChoosingView {
  plan: ChoosingPlan;
  entries: ChoosingEntry[];
  groups: { members: number[]; first: number }[];
  correlations: Correlations;
  choice: Choice;
  /** why each of the others is not among the chosen, where a limit kept it out */
  kept: { entry: number; why: string }[];
  /** the chosen in equal parts on one account, on the dates of the choice and on the later ones; so are all together */
  chosen: { fit: StretchRow; judged: StretchRow } | null;
  all: { fit: StretchRow; judged: StretchRow } | null;
  left: { name: string; why: string }[];
  looks: { total: number; questions: number };
}

/** Reads what an address asks; refuses what can't be. */
export function choosingPlan(params: URLSearchParams, last: string): ChoosingPlan {
  const problems: { path: string; message: string }[] = [];
  const number = (key: string, standard: number | undefined, least: number): number | undefined => {
    const text = params.get(key);
    if (text === null || text.trim() === "") return standard;
    const value = Number(text);
    if (Number.isFinite(value) && value >= least) return value;
    problems.push({ path: key, message: `${key} must be a number from ${least} on; “${text}” is not` });
    return standard;
  };
  const one = <T extends string>(key: string, of: readonly T[]): T => of.find((x) => x === params.get(key)) ?? of[0];
  const date = (key: string, standard: string): string => {
    const text = params.get(key) ?? standard;
    if (parseDate(text) === null) problems.push({ path: key, message: `“${text}” is no date, YYYY-MM-DD` });
    return text;
  };
  const plan: ChoosingPlan = {
    count: number("count", 3, 1)!,
    method: one("method", CHOICE_METHODS),
    objective: one("objective", CHOICE_OBJECTIVES),
    limits: {
      correlation: number("correlation", undefined, -1),
      perMarket: number("perMarket", undefined, 1),
      perSector: number("perSector", undefined, 1),
      same: number("same", 0.9, -1),
    },
    from: date("from", "2005-01-01"),
    to: date("to", "2014-12-31"),
    judgeTo: date("judgeTo", last),
    capital: number("capital", 1_000_000, 1)!,
    drafts: params.get("drafts") === "yes",
  };
  if (plan.from >= plan.to) problems.push({ path: "to", message: "the dates of the choice must end after they begin" });
  if (plan.to >= plan.judgeTo) problems.push({ path: "judgeTo", message: "the judging dates must end after the dates of the choice" });
  if (problems.length > 0) throw new Refused(problems);
  return plan;
}

/** Chooses, judges on later dates, and writes the looks down. */
export async function chooseFromLibrary(services: Services, plan: ChoosingPlan, timeframe = "1d"): Promise<ChoosingView> {
  const like = readSettings({
    format: "canyon.settings/1",
    markets: [{ symbol: "X", bars: "x", timeframe }],
    capital: plan.capital,
    from: plan.from,
    to: plan.judgeTo,
  }).value!;
  const [pool, sectors] = await Promise.all([poolOf(services, like, timeframe, plan.drafts), sectorsOf(services)]);
  const bounds = {
    fit: [parseDate(plan.from)!, parseDate(plan.to)!],
    judged: [parseDate(plan.to)! + 1, parseDate(plan.judgeTo)!],
  } as const;
  const fitting = alignedReturns(pool.entries, ...bounds.fit);
  const entries = pool.entries.map(({ version, member, survivor, simulation }): ChoosingEntry => ({
    versionId: version.id,
    name: member.name,
    version: version.number,
    status: version.status,
    survivor,
    markets: member.markets,
    fit: stretchRow(simulation, ...bounds.fit),
    judged: stretchRow(simulation, ...bounds.judged),
  }));
  const empty: Choice = { chosen: [], value: null, looks: 0, path: [] };
  const able = fitting === null ? null : choicePool(pool.entries, fitting, plan, sectors);
  const choice = able === null ? empty : choose(able, plan.count, plan.method);
  const judge = (chosen: readonly number[]) => together(chosen.map((i) => pool.entries[i]), pool.settings, pool.bars, bounds); // prettier-ignore
  if (able !== null && choice.looks > 0) await countLooks(services.db, plan, choice, entries);
  const groups = able === null ? [] : groupsOf(able);
  return {
    plan,
    entries,
    groups,
    correlations: able?.correlations ?? [],
    choice,
    kept:
      able === null
        ? []
        : groups
            .filter(({ first }) => !choice.chosen.includes(first))
            .flatMap(({ first }) => {
              const why = joinFault(able, choice.chosen, first);
              return why === null ? [] : [{ entry: first, why }];
            }),
    chosen: choice.chosen.length === 0 ? null : judge(choice.chosen),
    all: pool.entries.length < 2 ? null : judge(pool.entries.map((_, i) => i)),
    left: pool.left,
    looks: await looksSoFar(services.db),
  };
}

interface Aligned {
  times: Float64Array;
  returns: Float64Array[];
  perYear: number;
}

/** Returns alone of all over the union of their dates; 0 on dates that one has none. Null where nobody has a date there. */
function alignedReturns(entries: readonly PoolEntry[], from: number, to: number): Aligned | null {
  const byDate = entries.map(({ simulation }) => {
    const { run, equity } = simulation;
    const ends = periodEnds(run);
    const own = periodReturns(equity, ends, run.account.capital);
    const out = new Map<number, number>();
    ends.forEach((end, k) => {
      const date = run.clock.dates[end];
      if (date >= from && date <= to) out.set(date, own?.[k] ?? 0);
    });
    return out;
  });
  const dates = [...new Set(byDate.flatMap((own) => [...own.keys()]))].sort((a, b) => a - b);
  if (dates.length < 20) return null;
  return {
    times: Float64Array.from(dates, (date) => date * 86_400_000),
    returns: byDate.map((own) => Float64Array.from(dates, (date) => own.get(date) ?? 0)),
    perYear: periodsPerYear(entries[0].simulation.run),
  };
}

const choicePool = (
  entries: readonly PoolEntry[],
  { times, returns, perYear }: Aligned,
  plan: ChoosingPlan,
  sectors: Record<string, string>,
): ChoicePool => ({
  candidates: entries.map(({ member }, i) => ({
    returns: returns[i],
    markets: member.markets,
    sectors: [...new Set(member.markets.map((symbol) => sectors[symbol] ?? "other"))],
  })),
  correlations: correlations(returns),
  times,
  perYear,
  objective: plan.objective,
  limits: plan.limits,
});

/** Some of the library in equal parts on one account: its figures on both stretches. */
function together(
  chosen: readonly PoolEntry[],
  settings: Settings,
  bars: ReadonlyMap<string, Parameters<typeof prepareMembers>[2][number]>,
  bounds: { fit: readonly [number, number]; judged: readonly [number, number] },
): { fit: StretchRow; judged: StretchRow } | null {
  const members = chosen.map(({ member, version }) => memberOf({ ...member, weight: 1 / chosen.length }, version));
  const prepared = prepareMembers(members, settings, settings.markets.map(({ symbol }) => bars.get(symbol)!)); // prettier-ignore
  if (prepared.value === null) throw new Refused(prepared.problems);
  const run = prepareRun(prepared.value.runMembers, settings, prepared.value.markets);
  if (run.value === null) throw new Refused(run.problems);
  const simulation = simulate(run.value, { members: true });
  return { fit: stretchRow(simulation, ...bounds.fit), judged: stretchRow(simulation, ...bounds.judged) };
}

/** Writes down what was looked at; the same question of the same library is counted once. */
async function countLooks(db: Database, plan: ChoosingPlan, choice: Choice, entries: readonly ChoosingEntry[]): Promise<void> {
  const question = JSON.stringify([plan, entries.map(({ versionId }) => versionId)]);
  await db
    .insert(portfolioLooks)
    .values({
      question,
      count: choice.looks,
      fromDate: plan.from,
      toDate: plan.to,
      chosen: choice.chosen.map((i) => entries[i].versionId).join(","),
      at: Date.now(),
    })
    .onConflictDoNothing();
}

export interface LooksTaken {
  count: number;
  from: string;
  to: string;
  at: number;
}

/** Every question that was asked of the library, newest first. */
export async function looksTaken(db: Database): Promise<LooksTaken[]> {
  const rows = await db.select().from(portfolioLooks).orderBy(desc(portfolioLooks.id));
  return rows.map(({ count, fromDate, toDate, at }) => ({ count, from: fromDate, to: toDate, at }));
}

/** Selections that were looked at so far, by all questions. */
export async function looksSoFar(db: Database): Promise<{ total: number; questions: number }> {
  const rows = await looksTaken(db);
  return { total: rows.reduce((sum, { count }) => sum + count, 0), questions: rows.length };
}

/** The last date on which any market has a bar that counts. */
export async function lastDate(services: Services): Promise<string> {
  const markets = await services.markets.list();
  return markets.length === 0
    ? formatDate(Math.floor(Date.now() / 86_400_000))
    : formatDate(Math.floor(Math.max(...markets.map((m) => m.lastTime)) / 86_400_000));
}
