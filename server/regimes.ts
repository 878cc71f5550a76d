import { parseDate } from "#core/bars";
import { NO_COSTS, readSettings } from "#core/documents";
import { prepareRun, simulate } from "#core/engine";
import { compileStrategy } from "#core/engine";
import { periodEnds, periodReturns, periodsPerYear } from "#core/metrics";
import { divided, regimeDays, switching, yesStretches, type DividedDays } from "#core/regimes";
import { checkRule, EMPTY_SCOPE } from "#core/rules";
import { runMarkets, soleMember } from "#core/runs";
import { lineOf, type SentLine } from "./lines";
import { settingsMarket } from "./market-source";
import type { PortfolioPage } from "./portfolio-report";
import { Refused } from "./problem";
import type { Services } from "./services";

/** A condition on a market, and what is held against it. */
export interface RegimeQuestion {
  rule: string;
  /** market whose bars the condition is asked on */
  market: string;
  /** held while yes, and while no (null: cash) */
  yes: string;
  no: string | null;
  from: string | null;
  to: string | null;
}

export interface RegimeView {
  share: number;
  changes: number;
  /** holding of each market, and portfolios, within and without */
  rows: { name: string; kind: "holding" | "switching" | "portfolio"; days: DividedDays }[];
  stretches: { from: number; to: number }[];
  lines: SentLine[];
}

/** Everything that a rule names: its own market and those of `close of X`. */
function marketsIn(question: RegimeQuestion): string[] {
  const { formula, problems } = checkRule(question.rule, EMPTY_SCOPE, "yesno");
  if (formula === null)
    throw new Refused(
      problems.map(({ line, column, message }) => ({ path: "rule", message: `line ${line}, column ${column}: ${message}` })),
    );
  const compiled = compileStrategy({
    format: "canyon.strategy/1",
    timeframe: "1d",
    long: { enter: { when: question.rule } },
    sizing: { mode: "units", value: 1 },
  }).value!;
  return [...new Set([question.market, question.yes, ...(question.no === null ? [] : [question.no]), ...compiled.others])];
}

/** What a condition divides: results within and without, side by side against holding, and the switch between two markets. */
export async function regimeView(services: Services, question: RegimeQuestion, pages: readonly PortfolioPage[]): Promise<RegimeView> {
  const { settings, bars } = await regimeSettings(services, question);
  const timeframe = compileStrategy(switching(question.rule, question.yes, null, "1d")[0].strategy).value!.timeframe;
  const markets = runMarkets(settings, bars, timeframe);
  const stores = new Map(markets.map((market) => [market.spec.symbol, market.store]));
  for (const { store } of markets) store.link((symbol) => stores.get(symbol) ?? null);
  const place = (symbol: string) => settings.markets.findIndex((market) => market.symbol === symbol);
  const outcome = regimeDays(markets[place(question.market)], question.rule);
  if (outcome.value === null) throw new Refused(outcome.problems.map(({ message }) => ({ path: "rule", message })));
  const regime = outcome.value;
  const rows: RegimeView["rows"] = [];
  const lines: SentLine[] = [];
  const alone = (symbols: readonly string[], parts: ReturnType<typeof switching>, name: string, kind: "holding" | "switching") => {
    const members = parts.map((part) => {
      const compiled = compileStrategy(part.strategy).value!;
      return { ...soleMember(compiled, settings), name: part.name, markets: [place(part.market)], weight: 1 / parts.length };
    });
    const run = prepareRun(members, settings, markets);
    if (run.value === null) throw new Refused(run.problems);
    const simulation = simulate(run.value);
    const ends = periodEnds(run.value);
    const returns = periodReturns(simulation.equity, ends, settings.capital);
    if (returns === null)
      throw new Refused([{ path: "no", message: `${symbols.join(", ")}: the account was lost, so there is nothing to divide` }]);
    const { dates, times } = run.value.clock;
    const own = Float64Array.from(ends, (end) => dates[end]);
    rows.push({ name, kind, days: divided(own, returns, regime, periodsPerYear(run.value)) });
    lines.push(lineOf(name, times, simulation.equity.map((x) => (100 * x) / settings.capital))); // prettier-ignore
  };
  const hold = (symbol: string) => alone([symbol], switching("close = close", symbol, null, "1d"), `holding ${symbol}`, "holding");
  hold(question.yes);
  if (question.no !== null && question.no !== question.yes) hold(question.no);
  alone(
    [question.yes],
    switching(question.rule, question.yes, question.no, "1d"),
    `${question.yes} while yes, ${question.no ?? "cash"} while no`,
    "switching",
  );
  for (const { name, computed, document } of pages) {
    const { simulation } = computed;
    const ends = periodEnds(simulation.run);
    const returns = periodReturns(simulation.equity, ends, document.settings.capital);
    if (returns === null) continue;
    const dates = Float64Array.from(ends, (end) => simulation.run.clock.dates[end]);
    rows.push({ name, kind: "portfolio", days: divided(dates, returns, regime, periodsPerYear(simulation.run)) });
  }
  const from = settings.from === null ? -Infinity : parseDate(settings.from)!;
  const to = settings.to === null ? Infinity : parseDate(settings.to)!;
  const within = regime.said.filter((_, k) => regime.dates[k] >= from && regime.dates[k] <= to);
  return {
    share: within.length === 0 ? 0 : within.reduce((sum, x) => sum + x, 0) / within.length,
    changes: within.reduce((sum, x, k) => sum + (k > 0 && x !== within[k - 1] ? 1 : 0), 0),
    rows,
    stretches: yesStretches(regime).filter((one) => one.to >= from && one.from <= to),
    lines,
  };
}

async function regimeSettings(services: Services, question: RegimeQuestion) {
  const named = marketsIn(question);
  const markets = await Promise.all(named.map((symbol) => services.markets.bySymbol(symbol)));
  const gone = named.filter((_, i) => markets[i] === null);
  if (gone.length > 0) throw new Refused([{ path: "rule", message: `there is no market ${gone.join(", ")}` }]);
  const currencies = new Set(markets.map((market) => market!.currency));
  if (currencies.size > 1)
    throw new Refused([{ path: "no", message: "the markets are quoted in different currencies; one account has one" }]);
  const read = readSettings({
    format: "canyon.settings/1",
    markets: markets.map((market) => settingsMarket(market!, "1d")),
    from: question.from,
    to: question.to,
    capital: 10_000_000,
    currency: markets[0]!.currency,
    costs: NO_COSTS,
  });
  if (read.value === null) throw new Refused(read.problems);
  const settings = read.value;
  return { settings, bars: await services.bars.all(settings.markets.map((market) => market.bars)) };
}

/** Makes the switch a portfolio: two strategies in the library with opposite conditions, each with half of the weights. */
export async function makeSwitch(services: Services, question: RegimeQuestion, name: string): Promise<number> {
  const { settings } = await regimeSettings(services, question);
  const parts = switching(question.rule, question.yes, question.no, "1d");
  if (parts.length < 2)
    throw new Refused([{ path: "no", message: "a portfolio needs two members: choose a market for “no”, or take the one strategy" }]);
  const own = { ...settings, capital: 1_000_000, benchmark: question.yes };
  const costs = (await services.markets.bySymbol(question.yes))!.costs;
  const members = [];
  for (const part of parts) {
    const version = await services.strategies.create(part.strategy, "one half of a switch", { ...own, costs });
    members.push({ versionId: version.id, name: part.name, markets: [part.market], weight: 1 / parts.length });
  }
  return services.portfolios.create(
    name,
    { members, settings: { ...own, costs }, weighting: { mode: "given" } },
    `switches by: ${question.rule}`,
  );
}
