import { barsHash, type Bars } from "#core/bars";
import {
  bareStrategy,
  fingerprintOf,
  type DocumentProblem,
  type Metrics,
  type RunResult,
  type Settings,
  type Strategy,
} from "#core/documents";
import {
  compileStrategy,
  prepareRun,
  simulate,
  type RunMarket,
  type RunMember,
  type Simulation,
  type StrategyProblem,
  type WeightStep,
} from "#core/engine";
import { partMetrics } from "#core/metrics";
import { periodChanges } from "./series";
import { correlations, type Correlations } from "./together";
import { hashedSettings, resultOf, runMarkets, timeframeProblems } from "#core/runs";

/** One member of a portfolio: a strategy on some of the settings' markets, with its share of the account. */
export interface Member {
  name: string;
  strategy: Strategy;
  /** symbols; all of the settings' where left out */
  markets?: string[];
  weight: number;
  /** weights that hold from a date on, where they change along the way */
  steps?: readonly WeightStep[];
  marketLimit?: number;
}

export interface MemberResult {
  name: string;
  metrics: Metrics;
  /** `profit`: its net ÷ capital · 100; `drawdown`: its change of profit in the deepest drawdown, in money */
  contribution: { profit: number; drawdown: number };
}

/** `canyon.result/1` with what a portfolio adds. */
export interface PortfolioResult extends RunResult {
  weights: number[];
  members: MemberResult[];
  correlation: (number | null)[][];
  concentration: (number | null)[];
}

export type PortfolioOutcome =
  { result: PortfolioResult; simulation: Simulation; problems: [] } | { result: null; problems: StrategyProblem[] };

/** Runs members together on one account, through the engine; not a sum of curves. `bars` in the order of the settings' markets. */
export function runPortfolio(members: readonly Member[], settings: Settings, bars: readonly Bars[]): PortfolioOutcome {
  const prepared = prepareMembers(members, settings, bars);
  if (prepared.value === null) return { result: null, problems: prepared.problems };
  const faults = weightProblems(members);
  if (faults.length > 0) return { result: null, problems: faults };
  const { runMembers, markets } = prepared.value;
  const run = prepareRun(runMembers, settings, markets);
  if (run.value === null) return { result: null, problems: run.problems.map((p) => ({ ...p, path: `settings.${p.path}` })) };
  const simulation = simulate(run.value, { record: true, members: true });
  const fingerprint = portfolioFingerprint(members, settings, bars);
  return { result: { ...resultOf(simulation, fingerprint), ...portfolioParts(simulation) }, simulation, problems: [] };
}

/** Names what a portfolio rests on: equal fingerprints mean equal results to the last bit. */
export function portfolioFingerprint(members: readonly Member[], settings: Settings, bars: readonly Bars[]): string {
  const bare = members.map(({ name, strategy, markets, weight, steps, marketLimit }) => ({
    name,
    strategy: bareStrategy(strategy),
    markets,
    weight,
    ...(steps === undefined ? {} : { steps }),
    marketLimit,
  }));
  return fingerprintOf([{ members: bare }], hashedSettings(settings, bars.map(barsHash)));
}

/** Members and markets that fit each other, ready for runs. */
export interface PreparedMembers {
  runMembers: RunMember[];
  markets: RunMarket[];
}

export type PreparedMembersResult = { value: PreparedMembers; problems: [] } | { value: null; problems: StrategyProblem[] };

/** Compiles the members and fits them with the settings' markets; weights are looked at later. */
export function prepareMembers(members: readonly Member[], settings: Settings, bars: readonly Bars[]): PreparedMembersResult {
  const problems: StrategyProblem[] = [...nameProblems(members)];
  if (settings.marketLimit !== null)
    problems.push({ path: "settings.marketLimit", message: "in a portfolio each member has a marketLimit of its own" });
  const runMembers: RunMember[] = [];
  members.forEach((member, i) => {
    const path = `members[${i}]`;
    const compiled = compileStrategy(member.strategy);
    if (compiled.value === null) return void problems.push(...compiled.problems.map((p) => ({ ...p, path: `${path}.strategy.${p.path}` })));
    const symbols = member.markets ?? settings.markets.map((market) => market.symbol);
    const markets = symbols.map((symbol) => settings.markets.findIndex((market) => market.symbol === symbol));
    symbols.forEach((symbol, k) => {
      if (markets[k] < 0) problems.push({ path: `${path}.markets[${k}]`, message: `${symbol} isn't one of the settings' markets` });
    });
    if (runMembers.length > 0 && compiled.value.strategy.timeframe !== runMembers[0].compiled.strategy.timeframe)
      problems.push({ path: `${path}.strategy.timeframe`, message: "all members must have one timeframe" });
    runMembers.push({
      name: member.name,
      compiled: compiled.value,
      markets,
      weight: member.weight,
      ...(member.steps === undefined ? {} : { steps: member.steps }),
      marketLimit: member.marketLimit ?? null,
    });
  });
  if (problems.length > 0) return { value: null, problems };
  const { timeframe } = runMembers[0].compiled;
  problems.push(...timeframeProblems(settings, timeframe).map((p) => ({ ...p, path: `settings.${p.path}` })));
  if (problems.length > 0) return { value: null, problems };
  return { value: { runMembers, markets: runMarkets(settings, bars, timeframe) }, problems: [] };
}

/** What is wrong with the members' names, or that there are none. */
function nameProblems(members: readonly { name: string }[]): DocumentProblem[] {
  const problems: DocumentProblem[] = [];
  if (members.length === 0) problems.push({ path: "members", message: "a portfolio needs at least one member" });
  members.forEach((member, i) => {
    if (members.findIndex((other) => other.name === member.name) < i)
      problems.push({ path: `members[${i}].name`, message: `the name “${member.name}” is given twice` });
  });
  return problems;
}

/** What is wrong with names and weights. Weights given by hand must add up to 1, to 1e-9. */
export function weightProblems(members: readonly { name: string; weight: number }[]): DocumentProblem[] {
  const problems = nameProblems(members);
  members.forEach((member, i) => {
    if (!(member.weight >= 0)) problems.push({ path: `members[${i}].weight`, message: "a weight must not be negative" });
  });
  const total = members.reduce((sum, member) => sum + member.weight, 0);
  if (members.length > 0 && Math.abs(total - 1) > 1e-9)
    problems.push({ path: "members", message: `the weights must add up to 1; they come to ${Number(total.toFixed(9))}` });
  return problems;
}

/** Weights, members, correlation and concentration of a portfolio's simulation. */
export function portfolioParts(simulation: Simulation): Pick<PortfolioResult, "weights" | "members" | "correlation" | "concentration"> {
  const { run, legs, log } = simulation;
  const profits = simulation.memberProfit!;
  const [peak, low] = deepest(simulation.equity, run.account.capital);
  const members = run.members.map((member, m): MemberResult => {
    const at = (t: number) => (t < 0 ? 0 : profits[m][t]);
    return {
      name: member.name!,
      metrics: partMetrics(simulation, (row) => legs[log.leg[row]].memberIndex === m),
      contribution: { profit: (100 * profits[m][profits[m].length - 1]) / run.account.capital, drawdown: at(low) - at(peak) },
    };
  });
  return {
    weights: run.members.map((member) => member.weight),
    members,
    correlation: correlationOf(simulation),
    concentration: Array.from(simulation.concentration!, (x) => (Number.isNaN(x) ? null : x)),
  };
}

/** The last point at the peak before the deepest fall in money (−1: before the first bar) and the first point at its low. */
function deepest(equity: Float64Array, capital: number): [peak: number, low: number] {
  let peak = capital;
  let peakAt = -1;
  let largest = 0;
  let found: [number, number] = [-1, -1];
  equity.forEach((value, t) => {
    if (value >= peak) {
      peak = value;
      peakAt = t;
    } else if (peak - value > largest) {
      largest = peak - value;
      found = [peakAt, t];
    }
  });
  return found;
}

/** Correlations of the daily changes of the members' own profit; null where one does not vary. */
const correlationOf = (simulation: Simulation): Correlations => correlations(periodChanges(simulation, "day").members);
