import { emptyBars, type Bars } from "#core/bars";
import { readSettings, readStrategy, type Settings, type Strategy } from "#core/documents";
import { compileStrategy, prepareRun, Scratch, simulate } from "#core/engine";
import { runMarkets, soleMember } from "#core/runs";
import { benchBars, DAILY, MINUTES } from "./data";
import { HandLoop } from "./hand";
import { benchSettings, benchStrategy, handRules } from "./strategy";

type Line = (name: string, unit: string, ours: number, hand: number) => void;

/** Milliseconds of one call, the best of a few. */
function milliseconds(work: () => void, tries = 5): number {
  let best = Infinity;
  for (let i = 0; i < tries; i++) {
    const start = performance.now();
    work();
    best = Math.min(best, performance.now() - start);
  }
  return best;
}

const whole = (strategy: Strategy, settings: Settings, bars: readonly Bars[]) => {
  const compiled = compileStrategy(strategy).value!;
  const scratch = new Scratch();
  return () => {
    const run = prepareRun([soleMember(compiled, settings)], settings, runMarkets(settings, bars, compiled.timeframe)).value!;
    for (const { store } of run.markets) store.use(scratch.columns);
    simulate(run, { scratch });
    for (const { store } of run.markets) store.release();
  };
};

/** The benchmark's strategy with an exit that looks at the position, against the hand-written loop without one. */
export function positionRules(line: Line): void {
  const bars = benchBars(100_000, MINUTES.step);
  const strategy: Strategy = {
    ...benchStrategy("1m"),
    long: { ...benchStrategy("1m").long, exit: { when: "barsHeld >= 40 and openProfit < 0 or openR > 4" } },
    short: { ...benchStrategy("1m").short, exit: { when: "barsHeld >= 40 and openProfit < 0 or openR > 4" } },
  };
  const loop = new HandLoop(bars.length);
  const ours = milliseconds(whole(strategy, benchSettings("1m"), [bars]), 15);
  const hand = milliseconds(() => void loop.run(bars, handRules()), 15);
  line(
    "engine-position-rules",
    "bars per second, a rule that looks at the position at every close",
    bars.length / (ours / 1000),
    bars.length / (hand / 1000),
  );
}

/** Forty shares over 22 years on one account, ranked, ten at once: milliseconds, against 400. */
export function fortyShares(line: Line): void {
  const bars = Array.from({ length: 40 }, (_, k) => {
    const own = emptyBars(5650);
    const walk = benchBars(5650 + k * 17, DAILY.step);
    for (const name of ["open", "high", "low", "close", "volume"] as const) own[name].set(walk[name].subarray(k * 17));
    own.time.set(walk.time.subarray(0, 5650));
    return own;
  });
  const strategy = readStrategy({
    format: "canyon.strategy/1",
    timeframe: "1d",
    long: { enter: { when: "close > sma(close, 100)" }, exit: { when: "close < sma(close, 100)" } },
    sizing: { mode: "equalShare" },
    priority: "roc(close, 60)",
  }).value!;
  const settings = readSettings({
    format: "canyon.settings/1",
    capital: 1_000_000,
    marketLimit: 10,
    markets: bars.map((_, k) => ({ symbol: `S${k}`, bars: `s${k}`, timeframe: "1d" })),
  }).value!;
  const took = milliseconds(whole(strategy, settings, bars));
  line(`shares-40 (${took.toFixed(0)} ms)`, "runs per second against one in 400 ms", 1000 / took, 1000 / 400);
}

/** Memory of one run over a million bars: bars, columns and result together, against three times the bars and the result. */
export function memory(line: Line): void {
  const held = () => {
    globalThis.gc?.();
    return process.memoryUsage().arrayBuffers;
  };
  const before = held();
  const bars = benchBars(1_000_000, MINUTES.step);
  const ofBars = held() - before;
  const settings = benchSettings("1m");
  const compiled = compileStrategy(benchStrategy("1m")).value!;
  const run = prepareRun([soleMember(compiled, settings)], settings, runMarkets(settings, [bars], compiled.timeframe)).value!;
  const { equity, log } = simulate(run, {});
  const ofRun = held() - before;
  const columns = Object.values(log).filter((one): one is Float64Array => ArrayBuffer.isView(one));
  const ofResult = equity.byteLength + columns.reduce((sum, column) => sum + column.byteLength, 0);
  line("memory-1m", "bytes of three times the bars and the result (ours) against those held (hand)", 3 * ofBars + ofResult, ofRun);
}

/** A 20-minute strategy decided by a million one-minute bars: milliseconds, against 500. */
export function fineBars(line: Line): void {
  const bars = benchBars(1_000_000, MINUTES.step);
  const strategy: Strategy = {
    ...benchStrategy("20m"),
    protect: { stop: { unit: "atr", value: 2, period: 14 }, target: { unit: "r", value: 1.5 } },
  };
  const settings = { ...benchSettings("1m"), fineTimeframe: "1m" };
  // bars that nobody has seen yet: resampling counts
  const took = milliseconds(() => whole(strategy, settings, [{ ...bars }])());
  line(`fine-bars (${took.toFixed(0)} ms)`, "runs per second, resampling included, against one in 500 ms", 1000 / took, 2);
}
