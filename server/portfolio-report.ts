import { formatDate, parseDate } from "#core/bars";
import type { Metrics } from "#core/documents";
import { simulate } from "#core/engine";
import { benchmarkEquity, wholeMetrics } from "#core/metrics";
import {
  badDays,
  clusterOrder,
  contributionsOf,
  correlations,
  isEstimated,
  overlapOf,
  periodChanges,
  runOf,
  stretchRow,
  weightingWords,
  type Correlations,
  type StretchRow,
} from "#core/portfolio";
import { percentFalls } from "#core/reading";
import { layerOf, type Layer } from "./layers";
import { lineOf, type SentLine } from "./lines";
import type { ComputedPortfolio, PortfolioView } from "./portfolios";
import { isRefused } from "./problem";
import type { Services } from "./services";

/** A stored portfolio with what it came to; what every one of its pages starts from. */
export interface PortfolioPage extends PortfolioView {
  computed: ComputedPortfolio;
}

/** A portfolio that is computed, or null where there is none. Refuses one that can't be computed any more. */
export async function portfolioPage(services: Services, id: number): Promise<PortfolioPage | null> {
  const portfolio = await services.portfolios.get(id);
  return portfolio === null ? null : { ...portfolio, computed: await services.portfolios.compute(portfolio.document) };
}

/** The page of an address, or a 404; what can't be computed any more is said in words. */
export async function loadPortfolio(services: Services, id: string): Promise<PortfolioPage> {
  try {
    const page = await portfolioPage(services, Number(id));
    if (page !== null) return page;
  } catch (error) {
    if (!isRefused(error)) throw error;
    throw new Response(
      `This portfolio can't be computed any more: ${error.message}. It can still be changed under its address with /edit.`,
      { status: 409 },
    );
  }
  throw new Response("There is no such portfolio.", { status: 404 });
}

/** The same for lists of several: null where one can't be computed any more, as its own page says. */
export async function loadPortfolioOrNull(services: Services, id: number): Promise<PortfolioPage | null> {
  try {
    return await portfolioPage(services, id);
  } catch (error) {
    if (isRefused(error)) return null;
    throw error;
  }
}

/** What stands at the head of all pages of a portfolio. */
export interface PortfolioHead {
  id: number;
  name: string;
  members: number;
  capital: number;
  currency: string;
  leverage: number;
  weighting: string;
  dates: [from: string, to: string];
  fingerprint: string;
  /** stretches that weights were estimated and are judged on, day numbers; null where weights are not estimated */
  stretches: { estimated: [number, number]; judged: [number, number] } | null;
}

export function headOfPage(page: PortfolioPage): PortfolioHead {
  const { id, name, document, computed } = page;
  const { dates } = computed.simulation.run.clock;
  const { settings, weighting } = document;
  return {
    id,
    name,
    members: document.members.length,
    capital: settings.capital,
    currency: settings.currency ?? "",
    leverage: settings.leverage,
    weighting: weightingWords(weighting),
    dates: [formatDate(dates[0]), formatDate(dates[dates.length - 1])],
    fingerprint: computed.fingerprint,
    stretches: stretchesOf(page),
  };
}

/** The stretch that weights were estimated on, and the one that they are judged on; null where weights are not estimated. */
export function stretchesOf({
  document,
  computed,
}: Pick<PortfolioPage, "document" | "computed">): { estimated: [number, number]; judged: [number, number] } | null {
  const { weighting } = document;
  if (!isEstimated(weighting)) return null;
  const { dates } = computed.simulation.run.clock;
  const [from, to] = [parseDate(weighting.from!)!, parseDate(weighting.to!)!];
  return { estimated: [from, to], judged: [to + 1, dates[dates.length - 1]] };
}

export interface MemberRow {
  name: string;
  version: number;
  strategyId: number;
  status: string;
  markets: string[];
  condition: string | null;
  layers: Layer[];
  weight: number;
  trades: number | null;
  alone: Metrics;
  /** % of the capital, % a year, money in the deepest fall */
  profit: number;
  volatility: number | null;
  deepest: number;
}

export interface PortfolioReport {
  metrics: Metrics;
  rows: MemberRow[];
  /** figures of the estimated and of the judged stretch; null where weights are not estimated */
  stretches: { estimated: StretchRow; judged: StretchRow } | null;
  /** growth from 100 */
  lines: { together: SentLine; members: SentLine[]; equal: SentLine; benchmark: SentLine | null };
  falls: { together: SentLine; equal: SentLine };
  weightsAlong: { from: string | null; weights: number[] }[];
  tables: ComputedPortfolio["result"]["tables"];
  equalFigures: StretchRow;
  figures: StretchRow;
  /** entries that came to less than one unit, by market */
  tooSmall: { symbol: string; count: number }[];
}

/** The report's figures, rows and curves. */
export async function portfolioReport(services: Services, page: PortfolioPage): Promise<PortfolioReport> {
  const { document, computed } = page;
  const { simulation, alone, versions, result, fitted, account } = computed;
  const { times, dates } = simulation.run.clock;
  const { capital } = document.settings;
  const parts = contributionsOf(simulation, 1);
  const n = document.members.length;
  const equal = simulate(runOf(account, document.members.map((_, m) => m), document.members.map(() => 1 / n)), { members: true }); // prettier-ignore
  const hundred = (values: ArrayLike<number>) => Float64Array.from(values, (x) => (100 * x) / capital);
  const benchmark = benchmarkEquity(simulation);
  const bounds = stretchesOf(page);
  const rows = await Promise.all(
    document.members.map(async (member, m): Promise<MemberRow> => {
      const version = versions[m];
      return {
        name: member.name,
        version: version.number,
        strategyId: version.strategyId,
        status: version.status,
        markets: member.markets,
        condition: member.condition === undefined ? null : `while “${member.condition.rule}” says ${member.condition.while}`,
        layers: (await services.probes.ofVersion(version.id)).map(layerOf),
        weight: fitted[0].weights[m],
        trades: result.members[m].metrics.trades,
        alone: wholeMetrics(alone[m]),
        profit: (100 * parts.profit[m]) / capital,
        volatility: parts.volatility?.[m] ?? null,
        deepest: parts.falls[0]?.members[m] ?? 0,
      };
    }),
  );
  return {
    metrics: result.metrics.all,
    rows,
    stretches:
      bounds === null ? null : { estimated: stretchRow(simulation, ...bounds.estimated), judged: stretchRow(simulation, ...bounds.judged) },
    lines: {
      together: lineOf("together", times, hundred(simulation.equity)),
      members: alone.map((one, m) => lineOf(document.members[m].name, one.run.clock.times, hundred(one.equity))),
      equal: lineOf("in equal parts", times, hundred(equal.equity)),
      benchmark: benchmark === null ? null : lineOf(`holding ${document.settings.benchmark}`, times, hundred(benchmark)),
    },
    falls: {
      together: lineOf("together", times, percentFalls(simulation.equity, capital)),
      equal: lineOf("in equal parts", times, percentFalls(equal.equity, capital)),
    },
    weightsAlong: fitted.map(({ from, weights }) => ({ from: from ?? formatDate(dates[0]), weights })),
    tables: result.tables,
    equalFigures: stretchRow(equal),
    figures: stretchRow(simulation),
    tooSmall: document.settings.markets.flatMap(({ symbol }) => {
      const count = simulation.events.filter((event) => event.kind === "tooSmall" && event.symbol === symbol).length;
      return count === 0 ? [] : [{ symbol, count }];
    }),
  };
}

export const TOGETHER = ["day", "week", "month"] as const;

export interface TogetherView {
  names: string[];
  order: number[];
  /** correlations of daily, weekly and monthly results, with how many there are */
  by: Record<(typeof TOGETHER)[number], { count: number; values: Correlations }>;
  bad: { count: number; correlation: Correlations; shared: Correlations } | null;
  /** the same by day, before and after the weights' stretch ended; null where weights are not estimated */
  halves: { estimated: Correlations; judged: Correlations } | null;
  overlap: { time: Correlations; markets: string[][][]; same: number[][]; opposite: number[][]; lines: SentLine[] };
}

/** How members go together: by day, week and month, in bad days, in time and in markets. */
export function togetherView(page: PortfolioPage): TogetherView {
  const { simulation } = page.computed;
  const by = Object.fromEntries(
    TOGETHER.map((frequency) => {
      const { members } = periodChanges(simulation, frequency);
      return [frequency, { count: members[0].length, values: correlations(members) }];
    }),
  ) as TogetherView["by"];
  const bounds = stretchesOf(page);
  const overlap = overlapOf(simulation);
  const { times } = simulation.run.clock;
  const between = ([from, to]: [number, number]) => correlations(periodChanges(simulation, "week", from, to).members);
  return {
    names: page.document.members.map(({ name }) => name),
    order: clusterOrder(by.week.values),
    by,
    bad: badDays(periodChanges(simulation, "day")),
    halves: bounds === null ? null : { estimated: between(bounds.estimated), judged: between(bounds.judged) },
    overlap: {
      time: overlap.time,
      markets: overlap.markets,
      same: overlap.sameSide,
      opposite: overlap.oppositeSide,
      lines: [lineOf("members in the market", times, overlap.members), lineOf("positions", times, overlap.positions)],
    },
  };
}
