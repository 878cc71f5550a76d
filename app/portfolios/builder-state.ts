import { NO_COSTS, type Costs, type Settings } from "#core/documents";
import { isEstimated, type Weighting } from "#core/portfolio";
import type { Candidate } from "#server/candidates";
import { settingsMarket } from "#server/market-source";
import type { MarketView } from "#server/markets";
import type { PortfolioDocument, PortfolioMember } from "#server/portfolio-document";
import type { SeriesByName } from "~/markets/use-series";

/** The account as it is typed. */
export interface AccountState {
  capital: string;
  leverage: string;
  from: string;
  to: string;
  haltBelowPercent: string;
  /** symbol whose cost preset holds for all members */
  costsOf: string;
  benchmark: string;
}

export interface BuilderState {
  name: string;
  members: PortfolioMember[];
  weighting: Weighting;
  account: AccountState;
}

export const EMPTY_STATE: BuilderState = {
  name: "",
  members: [],
  weighting: { mode: "given" },
  account: { capital: "1000000", leverage: "1", from: "", to: "", haltBelowPercent: "0", costsOf: "", benchmark: "" },
};

export function stateOf(name: string, { members, settings, weighting }: PortfolioDocument): BuilderState {
  return {
    name,
    members,
    weighting,
    account: {
      capital: String(settings.capital),
      leverage: String(settings.leverage),
      from: settings.from ?? "",
      to: settings.to ?? "",
      haltBelowPercent: String(settings.haltBelowPercent),
      costsOf: "as saved",
      benchmark: settings.benchmark ?? "",
    },
  };
}

/** Weights as whole thousandths that add up to 1: what one slider takes, the others give in proportion. */
export function rebalance(weights: readonly number[], index: number, to: number): number[] {
  const target = weights.length === 1 ? 1000 : Math.round(Math.min(1, Math.max(0, to)) * 1000);
  const others = weights.map((w, i) => (i === index ? 0 : w));
  const sum = others.reduce((a, b) => a + b, 0);
  const rest = 1000 - target;
  const out = others.map((w, i) =>
    i === index ? target : Math.floor(sum > 0 ? (rest * w) / sum : rest / Math.max(1, weights.length - 1)),
  );
  let lack = 1000 - out.reduce((a, b) => a + b, 0);
  for (let i = 0; lack > 0 && weights.length > 1; i = (i + 1) % out.length) {
    if (i === index) continue;
    out[i]++;
    lack--;
  }
  return out.map((x) => x / 1000);
}

const weighted = (members: readonly PortfolioMember[], weights: readonly number[]): PortfolioMember[] =>
  members.map((member, i) => ({ ...member, weight: weights[i] }));

/** Takes a version in with an equal part; the others give in proportion. */
export function withMember(state: BuilderState, candidate: Candidate, symbols: readonly string[]): BuilderState {
  const own = candidate.markets.filter((symbol) => symbols.includes(symbol));
  let name = candidate.name;
  for (let k = 2; state.members.some((member) => member.name === name); k++) name = `${candidate.name} ${k}`;
  const members = [
    ...state.members,
    { versionId: candidate.versionId, name, markets: own.length > 0 ? own : symbols.slice(0, 1), weight: 0 },
  ];
  const last = members.length - 1;
  return { ...state, members: weighted(members, rebalance(members.map(({ weight }) => weight), last, 1 / members.length)) }; // prettier-ignore
}

/** Takes one out; what it had goes to the others in proportion. */
export function withoutMember(state: BuilderState, index: number): BuilderState {
  const members = state.members.filter((_, i) => i !== index);
  if (members.length === 0) return { ...state, members };
  const total = members.reduce((sum, { weight }) => sum + weight, 0);
  const weights = members.map(({ weight }) => (total > 0 ? weight / total : 1 / members.length));
  return { ...state, members: weighted(members, rebalance(weights, 0, weights[0])) };
}

export const withWeight = (state: BuilderState, index: number, to: number): BuilderState => ({
  ...state,
  members: weighted(state.members, rebalance(state.members.map(({ weight }) => weight), index, to)), // prettier-ignore
});

/** Symbols in a text, separated by commas or spaces. */
export const symbolsIn = (text: string): string[] => [...new Set(text.toUpperCase().split(/[\s,;]+/).filter((x) => x !== ""))]; // prettier-ignore

export type { Candidate };
export type Problem = { path: string; message: string };

/** The run settings of what is typed, or what is wrong with it. Markets that rules name beside those traded come in too. */
export function settingsOfState(
  { members, account }: BuilderState,
  candidates: readonly Candidate[],
  markets: readonly MarketView[],
  series: Readonly<Record<string, SeriesByName>>,
  saved: Costs | null,
): { settings: Settings | null; problems: Problem[] } {
  const problems: Problem[] = [];
  const number = (key: "capital" | "leverage" | "haltBelowPercent", above: number): number => {
    const value = Number(account[key].replace(/[\s,]/g, ""));
    if (account[key].trim() === "" || !Number.isFinite(value) || value < above)
      problems.push({ path: key, message: `“${account[key]}” is no number from ${above} on` });
    return value;
  };
  const bySymbol = new Map(markets.map((market) => [market.symbol, market]));
  const traded = [...new Set(members.flatMap((member) => member.markets))];
  members.forEach((member, i) => {
    if (member.markets.length === 0) problems.push({ path: `members[${i}].markets`, message: `${member.name} has no market to trade` });
    for (const symbol of member.markets)
      if (!bySymbol.has(symbol)) problems.push({ path: `members[${i}].markets`, message: `there is no market ${symbol}` });
  });
  const named = members.flatMap((member) => {
    const strategy = candidates.find(({ versionId }) => versionId === member.versionId)?.strategy;
    const text = JSON.stringify([strategy ?? {}, member.condition ?? {}]);
    return [...text.matchAll(/\bof ([A-Z][A-Z0-9]*)/g)].map(([, symbol]) => symbol).filter((symbol) => bySymbol.has(symbol));
  });
  const capital = number("capital", 1);
  const leverage = number("leverage", 0.01);
  const haltBelowPercent = number("haltBelowPercent", 0);
  if (problems.length > 0 || traded.length === 0) return { settings: null, problems };
  const timeframe = candidates.find(({ versionId }) => versionId === members[0].versionId)?.strategy.timeframe;
  const symbols = [...new Set([...traded, ...named])];
  const benchmark = symbols.includes(account.benchmark) ? account.benchmark : traded[0];
  const first = bySymbol.get(account.costsOf) ?? bySymbol.get(traded[0])!;
  const costs = account.costsOf === "as saved" && saved !== null ? saved : account.costsOf === "none" ? NO_COSTS : first.costs;
  return {
    problems,
    settings: {
      format: "canyon.settings/1",
      markets: symbols.map((symbol) => {
        const market = settingsMarket(bySymbol.get(symbol)!, timeframe);
        return series[symbol] === undefined ? market : { ...market, series: series[symbol] };
      }),
      from: account.from || null,
      to: account.to || null,
      capital,
      currency: first.currency,
      leverage,
      marketLimit: null,
      onLackOfMargin: "reduce",
      costs,
      intrabar: "pessimistic",
      fineTimeframe: null,
      haltBelowPercent,
      closeAtEnd: false,
      roundToTick: false,
      benchmark,
    },
  };
}

/** What is wrong with a way of weighting as it is typed, before anything is computed. */
export function weightingProblems({ weighting, members }: BuilderState): Problem[] {
  if (!isEstimated(weighting)) return [];
  const problems: Problem[] = [];
  if (!weighting.from) problems.push({ path: "weights.from", message: "estimated weights need a first date" });
  if (!weighting.to) problems.push({ path: "weights.to", message: "estimated weights need a last date" });
  if (weighting.from && weighting.to && weighting.from >= weighting.to)
    problems.push({ path: "weights.to", message: "the stretch must end after it begins" });
  const limits: Problem[] = [];
  if (weighting.least !== undefined && weighting.least * members.length > 1 + 1e-12)
    limits.push({
      path: "weights.least",
      message: `${members.length} members of at least ${weighting.least * 100} % come to more than 100 %`,
    });
  if (weighting.most !== undefined && weighting.most * members.length < 1 - 1e-12)
    limits.push({
      path: "weights.most",
      message: `${members.length} members of at most ${weighting.most * 100} % come to less than 100 %`,
    });
  return [...problems, ...limits];
}
