import { prepareRun, simulate } from "#core/engine";
import { periodEnds, periodReturns, periodsPerYear, wholeMetrics } from "#core/metrics";
import { alongOf, edgeLevel, luckOf, type EdgeLevel, type Luck } from "#core/reading";
import { timesCosts } from "#core/settings";
import { looksSoFar } from "./portfolio-choosing";
import { lineOf, type SentLine } from "./lines";
import type { PortfolioPage } from "./portfolio-report";
import type { Services } from "./services";

export interface PortfolioLuck {
  luck: Luck;
  /** states that were saved, and selections that were looked at while choosing */
  trials: { states: number; looks: number; members: number };
  edge: EdgeLevel;
  kinds: { name: string; money: number }[];
  costs: SentLine[];
}

/** Whether a portfolio could be luck, and what its costs take. */
export async function portfolioLuck(services: Services, page: PortfolioPage): Promise<PortfolioLuck> {
  const { simulation, account, alone } = page.computed;
  const { settings } = page.document;
  const { run } = simulation;
  const returns = periodReturns(simulation.equity, periodEnds(run), settings.capital);
  const perYear = periodsPerYear(run);
  const states = (await services.portfolios.versions(page.id)).length;
  const looks = (await looksSoFar(services.db)).total;
  const ledgers = await Promise.all(
    [...new Set(page.computed.versions.map(({ strategyId }) => strategyId))].map((id) => services.strategies.trialsOf(id)),
  );
  const members = ledgers.reduce((sum, { total }) => sum + total, 0);
  const sharpes = [...alone, simulation].flatMap((one) => wholeMetrics(one).sharpe ?? []);
  const luck = luckOf({
    metrics: page.computed.result.metrics.all,
    returns,
    perYear,
    trials: Math.max(1, states + looks + members),
    sharpes,
    seed: Number.parseInt(page.computed.fingerprint.slice(0, 7), 16),
  });
  const under = (times: number) => {
    const prepared = prepareRun(
      account.prepared.runMembers,
      { ...settings, costs: timesCosts(settings.costs, times) },
      account.prepared.markets,
    );
    return simulate(prepared.value!).equity.at(-1)! - settings.capital;
  };
  const along = alongOf(run);
  const kinds: [string, Float64Array][] = [
    ["commissions", along.commissions],
    ["spread", along.spread],
    ["slippage", along.slippage],
    ["financing", along.financing],
  ];
  return {
    luck,
    trials: { states, looks, members },
    edge: edgeLevel(under),
    kinds: kinds.map(([name, sums]) => ({ name, money: sums[sums.length - 1] })),
    costs: kinds.filter(([, sums]) => sums[sums.length - 1] !== 0).map(([name, sums]) => lineOf(name, run.clock.times, sums)),
  };
}
