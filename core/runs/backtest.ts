import { compareTimeframes, formatTimeframe, barsHash, parseTimeframe, resampleFault, type Bars, type Timeframe } from "#core/bars";
import { bareStrategy, fingerprintOf, type DocumentProblem, type RunResult, type Settings, type Strategy } from "#core/documents";
import {
  compileStrategy,
  prepareRun,
  runMarket,
  simulate,
  type Compiled,
  type PreparedRun,
  type RunMarket,
  type RunMember,
  type Simulation,
  type StrategyProblem,
} from "#core/engine";
import { resultOf } from "./result";

/** A problem with the document that it lies in. */
export interface RunProblem extends StrategyProblem {
  in: "strategy" | "settings";
}

export type Prepared = { run: PreparedRun; problems: [] } | { run: null; problems: RunProblem[] };

/** One strategy as the only member of an account. */
export function soleMember(compiled: Compiled, settings: Settings): RunMember {
  return { name: null, compiled, markets: settings.markets.map((_, i) => i), weight: 1, marketLimit: settings.marketLimit };
}

/** Why the settings' bars can't serve a timeframe, each with its path. */
export function timeframeProblems(settings: Settings, timeframe: Timeframe): DocumentProblem[] {
  const problems: DocumentProblem[] = [];
  const fine = settings.fineTimeframe === null ? null : parseTimeframe(settings.fineTimeframe)!;
  if (fine !== null && compareTimeframes(fine, timeframe) >= 0)
    problems.push({
      path: "fineTimeframe",
      message: `${formatTimeframe(fine)} is no finer than the strategy's ${formatTimeframe(timeframe)} bars, so it can't decide inside them`,
    });
  settings.markets.forEach((market, i) => {
    const own = parseTimeframe(market.timeframe)!;
    const fault = resampleFault(own, timeframe);
    if (fault !== null)
      problems.push({
        path: `markets[${i}].timeframe`,
        message: `${market.symbol} has ${market.timeframe} bars and the strategy runs on ${formatTimeframe(timeframe)}: ${fault}`,
      });
    const fineFault = fine === null ? null : resampleFault(own, fine);
    if (fineFault !== null)
      problems.push({
        path: "fineTimeframe",
        message: `${market.symbol} has ${market.timeframe} bars, which give no ${formatTimeframe(fine!)} ones: ${fineFault}`,
      });
  });
  return problems;
}

/** Markets of run settings with their bars (in the same order), in the strategy's timeframe, ready for runs. */
export const runMarkets = (settings: Settings, bars: readonly Bars[], timeframe: Timeframe): RunMarket[] => {
  const fine = settings.fineTimeframe === null ? null : parseTimeframe(settings.fineTimeframe);
  return settings.markets.map((market, i) => runMarket(market, bars[i], parseTimeframe(market.timeframe)!, timeframe, undefined, fine));
};

/** Compiles a strategy and fits it with run settings and their bars. `markets` may hand in what an earlier call made, to share its columns. */
export function prepareBacktest(strategy: Strategy, settings: Settings, bars: readonly Bars[], markets?: RunMarket[]): Prepared {
  const compiled = compileStrategy(strategy);
  const problems: RunProblem[] = [];
  if (compiled.value === null) problems.push(...compiled.problems.map((p) => ({ ...p, in: "strategy" as const })));
  const timeframe = compiled.value?.timeframe;
  if (timeframe) for (const problem of timeframeProblems(settings, timeframe)) problems.push({ ...problem, in: "settings" });
  if (compiled.value === null || problems.length > 0) return { run: null, problems };
  const prepared = prepareRun(
    [soleMember(compiled.value, settings)],
    settings,
    markets ?? runMarkets(settings, bars, compiled.value.timeframe),
  );
  if (prepared.value === null)
    return { run: null, problems: prepared.problems.map((p: DocumentProblem) => ({ ...p, in: "settings" as const })) };
  return { run: prepared.value, problems: [] };
}

/** Settings with each market's bars named by the hash of their columns, as the fingerprint needs them. */
export const hashedSettings = (settings: Settings, hashes: readonly string[]): Settings => ({
  ...settings,
  markets: settings.markets.map((market, i) => ({ ...market, bars: hashes[i] })),
});

/** Names what a backtest rests on: equal fingerprints mean equal results to the last bit. */
export const runFingerprint = (strategy: Strategy, settings: Settings, bars: readonly Bars[]): string =>
  fingerprintOf([bareStrategy(strategy)], hashedSettings(settings, bars.map(barsHash)));

export type BacktestRun = { simulation: Simulation; fingerprint: string; problems: [] } | { simulation: null; problems: RunProblem[] };

/** One backtest from documents and bars, with its books kept and the fingerprint of what went in. */
export function backtestRun(strategy: Strategy, settings: Settings, bars: readonly Bars[]): BacktestRun {
  const prepared = prepareBacktest(strategy, settings, bars);
  if (prepared.run === null) return { simulation: null, problems: prepared.problems };
  const simulation = simulate(prepared.run, { record: true });
  return { simulation, fingerprint: runFingerprint(strategy, settings, bars), problems: [] };
}

export type BacktestResult = { result: RunResult; simulation: Simulation; problems: [] } | { result: null; problems: RunProblem[] };

/** One backtest from documents and bars to `canyon.result/1`. */
export function backtest(strategy: Strategy, settings: Settings, bars: readonly Bars[]): BacktestResult {
  const run = backtestRun(strategy, settings, bars);
  if (run.simulation === null) return { result: null, problems: run.problems };
  return { result: resultOf(run.simulation, run.fingerprint), simulation: run.simulation, problems: [] };
}
