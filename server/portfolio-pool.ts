import type { Bars } from "#core/bars";
import { NO_COSTS, readSettings, type Settings } from "#core/documents";
import { simulate, type Simulation } from "#core/engine";
import { prepareMembers } from "#core/portfolio";
import { settingsMarket } from "./market-source";
import type { MarketView } from "./markets";
import type { PortfolioMember } from "./portfolio-document";
import { aloneRun, memberOf } from "./portfolios";
import { isRefused } from "./problem";
import type { Services } from "./services";
import type { VersionView } from "./strategies";

/** A version that a portfolio could take in, run alone. */
export interface PoolEntry {
  version: VersionView;
  /** whether it has earned the name of a survivor: survivor, or in a forward test */
  survivor: boolean;
  member: PortfolioMember;
  simulation: Simulation;
}

/** Versions of the library on one account each, under the same settings. */
export interface Pool {
  settings: Settings;
  bars: Map<string, Bars>;
  entries: PoolEntry[];
  /** who could not be run, and why */
  left: { name: string; why: string }[];
}

export const SURVIVING = ["survivor", "forward test"];

/** Markets that a version was last run on. */
export async function marketsOfVersion(services: Services, version: VersionView): Promise<string[]> {
  const newest = (await services.runs.newest()).get(version.strategyId);
  return (newest?.settings ?? version.settings)?.markets.map(({ symbol }) => symbol) ?? [];
}

/**
 * The newest version of every strategy of a timeframe, run alone on the markets that it was last run on, with bars as they
 * are now, under one account's settings. `drafts`: versions that are not survivors, too.
 */
export async function poolOf(services: Services, like: Settings, timeframe: string, drafts: boolean): Promise<Pool> {
  const [versions, markets, runs] = await Promise.all([services.strategies.newest(), services.markets.list(), services.runs.newest()]);
  const bySymbol = new Map(markets.map((market) => [market.symbol, market]));
  const left: Pool["left"] = [];
  const wanted = versions.filter(({ status }) => SURVIVING.includes(status) || (drafts && status !== "retired"));
  const used = new Map<string, MarketView>();
  const chosen = wanted.flatMap((version) => {
    const why = (text: string) => void left.push({ name: version.strategyName, why: text });
    const held = (runs.get(version.strategyId)?.settings ?? version.settings)?.markets.map(({ symbol }) => symbol) ?? [];
    if (version.strategy.timeframe !== timeframe) return why(`it runs on ${version.strategy.timeframe} bars`) ?? [];
    if (held.length === 0) return why("it was never run, so its markets are not known") ?? [];
    const gone = held.filter((symbol) => !bySymbol.has(symbol));
    if (gone.length > 0) return why(`${gone.join(", ")} was taken out of the markets`) ?? [];
    held.forEach((symbol) => used.set(symbol, bySymbol.get(symbol)!));
    return [{ version, member: { versionId: version.id, name: version.strategyName, markets: held, weight: 1 } }];
  });
  const given = {
    ...like,
    markets: [...used.values()].map((market) => settingsMarket(market, timeframe)),
    benchmark: null,
    marketLimit: null,
    costs: like.costs ?? NO_COSTS,
  };
  if (given.markets.length === 0) return { settings: like, bars: new Map(), entries: [], left };
  const completed = await services.series.complete(
    given,
    chosen.map(({ version }) => version.strategy),
  );
  const settings = readSettings(completed).value!;
  const bars = await services.bars.all(settings.markets.map((market) => market.bars));
  const entries: PoolEntry[] = [];
  for (const { version, member } of chosen) {
    const prepared = prepareMembers([memberOf(member, version)], settings, bars);
    if (prepared.value === null) {
      left.push({ name: member.name, why: prepared.problems[0].message });
      continue;
    }
    try {
      const run = aloneRun({ prepared: prepared.value, settings }, prepared.value.runMembers[0]);
      entries.push({ version, survivor: SURVIVING.includes(version.status), member, simulation: simulate(run, { members: true }) });
    } catch (error) {
      if (!isRefused(error)) throw error;
      left.push({ name: member.name, why: error.message });
    }
  }
  return { settings, bars: new Map(settings.markets.map((market, i) => [market.symbol, bars[i]])), entries, left };
}
