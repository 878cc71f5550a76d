import { formatTimeframe, hashBars, parseTimeframe, resampleFault, type Bars, type Timeframe } from "#core/bars";
import {
  bareStrategy,
  fingerprintOf,
  settingsNotYet,
  type DocumentProblem,
  type RunResult,
  type Settings,
  type Strategy,
} from "#core/documents";
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
  return settings.markets.flatMap((market, i) => {
    const fault = resampleFault(parseTimeframe(market.timeframe)!, timeframe);
    return fault === null
      ? []
      : [
          {
            path: `markets[${i}].timeframe`,
            message: `${market.symbol} has ${market.timeframe} bars and the strategy runs on ${formatTimeframe(timeframe)}: ${fault}`,
          },
        ];
  });
}

/** Markets of run settings with their bars (in the same order), in the strategy's timeframe, ready for runs. */
export const runMarkets = (settings: Settings, bars: readonly Bars[], timeframe: Timeframe): RunMarket[] =>
  settings.markets.map((market, i) => runMarket(market, bars[i], parseTimeframe(market.timeframe)!, timeframe));

/** Compiles a strategy and fits it with run settings and their bars. `markets` may hand in what an earlier call made, to share its columns. */
export function prepareBacktest(strategy: Strategy, settings: Settings, bars: readonly Bars[], markets?: RunMarket[]): Prepared {
  const compiled = compileStrategy(strategy);
  const problems: RunProblem[] = [];
  if (compiled.value === null) problems.push(...compiled.problems.map((p) => ({ ...p, in: "strategy" as const })));
  const timeframe = compiled.value?.timeframe;
  for (const problem of [...settingsNotYet(settings), ...(timeframe ? timeframeProblems(settings, timeframe) : [])])
    problems.push({ ...problem, in: "settings" });
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

export type BacktestResult = { result: RunResult; simulation: Simulation; problems: [] } | { result: null; problems: RunProblem[] };

/** One backtest from documents and bars to `canyon.result/1`. */
export function backtest(strategy: Strategy, settings: Settings, bars: readonly Bars[]): BacktestResult {
  const prepared = prepareBacktest(strategy, settings, bars);
  if (prepared.run === null) return { result: null, problems: prepared.problems };
  const simulation = simulate(prepared.run, { record: true });
  const fingerprint = fingerprintOf([bareStrategy(strategy)], hashedSettings(settings, bars.map(hashBars)));
  return { result: resultOf(simulation, fingerprint), simulation, problems: [] };
}
