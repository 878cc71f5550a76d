import { prepareRun, simulate } from "#core/engine";
import {
  contributionsOf,
  correlations,
  periodChanges,
  prepareMembers,
  runAlong,
  stretchRow,
  withOneMore,
  withoutOne,
  type Account,
  type FallByMember,
  type StretchRow,
} from "#core/portfolio";
import { memberOf } from "./portfolios";
import { stretchesOf, type PortfolioPage } from "./portfolio-report";
import type { Pool } from "./portfolio-pool";

/** The account with one member less or one more. */
export interface ChangedRow {
  name: string;
  versionId: number;
  what: "as it is" | "without" | "with";
  row: StretchRow;
  judged: StretchRow | null;
}

/** Survivors of the library that are like a member, most alike first: who could take its place. */
export interface ReserveRow {
  member: string;
  spare: { versionId: number; name: string; version: number; markets: string[]; correlation: number; row: StretchRow }[];
}

export interface MembersView {
  falls: FallByMember[];
  changed: ChangedRow[];
  reserve: ReserveRow[];
  /** why a version of the library could not be looked at */
  left: { name: string; why: string }[];
}

const MOST_SPARE = 3;
/** Below it two are not alike: one in the place of the other would be another portfolio. */
const LEAST_ALIKE = 0.2;

/** What each member did in the falls, what leaving it out or taking another in would do, and who could replace it. */
export function membersView(page: PortfolioPage, pool: Pool): MembersView {
  const { document, computed } = page;
  const { account, simulation, fitted } = computed;
  const bounds = stretchesOf(page);
  const sets = (change: (weights: readonly number[]) => number[]) =>
    fitted.map(({ from, weights }) => ({ from, weights: change(weights) }));
  const rowsOf = (run: ReturnType<typeof runAlong>) => {
    const one = simulate(run, { members: true });
    return { row: stretchRow(one), judged: bounds === null ? null : stretchRow(one, ...bounds.judged) };
  };
  const all = document.members.map((_, m) => m);
  const changed: ChangedRow[] = [{ name: "as it is", versionId: 0, what: "as it is", ...rowsOf(runAlong(account, all, fitted)) }];
  document.members.forEach((member, m) => {
    if (all.length > 1)
      changed.push({
        name: member.name,
        versionId: member.versionId,
        what: "without",
        ...rowsOf(runAlong(account, all.filter((k) => k !== m), sets((weights) => withoutOne(weights, m)))), // prettier-ignore
      });
  });
  const held = new Set(computed.versions.map(({ strategyId }) => strategyId));
  const spare = pool.entries.filter(({ version, survivor }) => survivor && !held.has(version.strategyId));
  for (const entry of spare) {
    const wider = widened(page, entry, pool);
    if (wider === null) continue;
    changed.push({
      name: entry.member.name,
      versionId: entry.version.id,
      what: "with",
      ...rowsOf(runAlong(wider, [...all, all.length], sets(withOneMore))),
    });
  }
  const reserve = document.members.map((member, m): ReserveRow => {
    const own = computed.alone[m];
    return {
      member: member.name,
      spare: spare
        .flatMap((entry) => {
          const value = alike(own, entry.simulation);
          return value === null || value < LEAST_ALIKE
            ? []
            : [{ versionId: entry.version.id, name: entry.member.name, version: entry.version.number, markets: entry.member.markets, correlation: value, row: stretchRow(entry.simulation) }]; // prettier-ignore
        })
        .sort((a, b) => b.correlation - a.correlation)
        .slice(0, MOST_SPARE),
    };
  });
  return { falls: contributionsOf(simulation).falls, changed, reserve, left: pool.left };
}

/** The portfolio's members with one more, on the markets of both; null where they don't go together. */
function widened({ computed, document }: PortfolioPage, entry: Pool["entries"][number], pool: Pool): Account | null {
  const { settings } = document;
  const more = pool.settings.markets.filter(
    (market) => entry.member.markets.includes(market.symbol) && !settings.markets.some(({ symbol }) => symbol === market.symbol),
  );
  const wide = { ...settings, markets: [...settings.markets, ...more] };
  const bars = [...computed.bars, ...more.map(({ symbol }) => pool.bars.get(symbol)!)];
  const given = [...computed.members, memberOf({ ...entry.member, name: unused(entry.member.name, computed.members) }, entry.version)];
  const prepared = prepareMembers(given, wide, bars);
  if (prepared.value === null) return null;
  const account = { prepared: prepared.value, settings: wide };
  return prepareRun(prepared.value.runMembers, wide, prepared.value.markets).value === null ? null : account;
}

const unused = (name: string, members: readonly { name: string }[]): string => {
  let own = name;
  for (let k = 2; members.some((member) => member.name === own); k++) own = `${name} ${k}`;
  return own;
};

/** Correlation of the weekly results of two runs of one member each, over the dates of both. */
function alike(a: Parameters<typeof stretchRow>[0], b: Parameters<typeof stretchRow>[0]): number | null {
  const weeks = [a, b].map((one) => {
    const { dates, members } = periodChanges(one, "week");
    return new Map(Array.from(dates, (date, k) => [Math.floor((date + 3) / 7), members[0][k]]));
  });
  const shared = [...weeks[0].keys()].filter((week) => weeks[1].has(week));
  if (shared.length < 26) return null;
  return correlations(weeks.map((own) => Float64Array.from(shared, (week) => own.get(week)!)))[0][1];
}
