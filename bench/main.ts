import { compileStrategy, prepareRun, Scratch, simulate } from "#core/engine";
import { median, wholeMetrics, type FigureSet } from "#core/metrics";
import { computeTrials, layGrid } from "#core/optimize";
import { runMarkets, soleMember } from "#core/runs";
import { LANDSCAPES, plainEvolution, searchLandscape } from "#core/testing/landscapes";
import { cpus } from "node:os";
import Piscina from "piscina";
import { fileURLToPath } from "node:url";
import { benchBars, DAILY, MINUTES } from "./data";
import { importMillion, readAndResample } from "./data-path";
import { fineBars, fortyShares, memory, positionRules } from "./engines";
import { compiling, functions } from "./functions";
import { HandLoop } from "./hand";
import { portfolios } from "./portfolios";
import { heavyProbes, shakenParameters } from "./probes";
import { benchSettings, benchStrategy, handRules } from "./strategy";

/**
 * Seconds that one call of each takes: the median of many rounds in which one follows the other, so that a machine that
 * changes its pace changes it for both.
 */
function seconds(...works: (() => void)[]): number[] {
  const rounds = 15;
  const counts = works.map((work) => {
    work();
    const start = performance.now();
    let count = 0;
    do {
      work();
      count++;
    } while (performance.now() - start < 60);
    return count;
  });
  const times = works.map(() => new Float64Array(rounds));
  for (let round = 0; round < rounds; round++)
    works.forEach((work, k) => {
      const start = performance.now();
      for (let i = 0; i < counts[k]; i++) work();
      times[k][round] = (performance.now() - start) / 1000 / counts[k];
    });
  return times.map((column) => column.sort()[rounds >> 1]);
}

const line = (name: string, unit: string, ours: number, hand: number) =>
  console.log(JSON.stringify({ name, unit, ours: Math.round(ours), hand: Math.round(hand), ratio: Number((ours / hand).toFixed(3)) }));

function engine(name: string, bars: ReturnType<typeof benchBars>, timeframe: string): void {
  const strategy = benchStrategy(timeframe);
  const settings = benchSettings(timeframe);
  const compiled = compileStrategy(strategy).value!;
  const scratch = new Scratch();
  const loop = new HandLoop(bars.length);
  const [hand, ours] = seconds(
    () => loop.run(bars, handRules()),
    () => {
      const run = prepareRun([soleMember(compiled, settings)], settings, runMarkets(settings, [bars], compiled.timeframe)).value!;
      run.markets[0].store.use(scratch.columns);
      simulate(run, { scratch });
      run.markets[0].store.release();
    },
  );
  line(name, "bars per second, columns and equity included", bars.length / ours, bars.length / hand);
}

async function optimization(name: string, figures: FigureSet): Promise<void> {
  const bars = benchBars(5000, DAILY.step);
  const loop = new HandLoop(bars.length);
  const search = {
    vary: [
      { name: "fast", from: 5, to: 104, step: 1 },
      { name: "slow", from: 110, to: 506, step: 4 },
    ],
    objective: [{ metric: "profitToDrawdown", want: "more" as const, weight: 1 }],
    limits: [],
  };
  const grid = layGrid(benchStrategy("1d"), search).value!;
  let at = 0;
  const [hand] = seconds(() => {
    at++;
    loop.run(bars, handRules(5 + (at % 100), 110 + 4 * (at % 100)));
  });
  const pool = new Piscina({
    filename: fileURLToPath(new URL("./bench-worker.js", import.meta.url)),
    maxThreads: cpus().length,
    minThreads: cpus().length,
  });
  const chunk = 250;
  const times: number[] = [];
  // the first pass only warms the threads up, as the loop written by hand is warm
  for (let pass = 0; pass < 6; pass++) {
    const start = performance.now();
    await Promise.all(
      Array.from({ length: grid.total / chunk }, (_, i) => pool.run({ pass, bars, search, from: i * chunk, to: (i + 1) * chunk, figures })),
    );
    if (pass > 0) times.push((performance.now() - start) / 1000);
  }
  const took = times.sort((a, b) => a - b)[times.length >> 1];
  await pool.destroy();
  line(
    name,
    `trials per second, ${figures === "all" ? "all figures" : "the figures of the trades"} of each, ${cpus().length} threads against one hand-written loop without figures`,
    grid.total / took,
    1 / hand,
  );
}

/** One trial after the other in this thread, to see what a trial costs. */
function singleThread(): void {
  const bars = benchBars(5000, DAILY.step);
  const strategy = benchStrategy("1d");
  const settings = benchSettings("1d");
  const grid = layGrid(strategy, { vary: [{ name: "fast", from: 5, to: 104, step: 1 }], objective: [], limits: [] }).value!;
  const run = prepareRun([soleMember(grid.compiled, settings)], settings, runMarkets(settings, [bars], grid.compiled.timeframe)).value!;
  const loop = new HandLoop(bars.length);
  const simulation = simulate(run, {});
  const [hand, trials, figures] = seconds(
    () => loop.run(bars, handRules()),
    () => computeTrials(grid, run, 0, 100),
    () => wholeMetrics(simulation),
  );
  line("trial-one-thread", "trials per second, all figures of each", 100 / trials, 1 / hand);
  line("metrics-5k", "sets of figures per second (beside the hand-written loop's runs)", 1 / figures, 1 / hand);
}

/** What evolution finds on three landscapes and what it spends, by the median of 20 seeds; no timing. */
function evolution(): void {
  for (const [name, landscape] of Object.entries(LANDSCAPES)) {
    const runs = Array.from({ length: 20 }, (_, seed) => searchLandscape(plainEvolution(seed + 1), landscape));
    const middle = (values: number[]) => Number(median(values).toFixed(4));
    const found = middle(runs.map((run) => run.found));
    const spent = middle(runs.map((run) => run.spent));
    console.log(JSON.stringify({ name: `evolution-${name}`, unit: "share of the grid's best, share of the grid's trials", found, spent }));
  }
}

const only = process.argv.includes("--only") ? process.argv[process.argv.indexOf("--only") + 1] : null;
const measures: Record<string, () => void | Promise<void>> = {
  "engine-5k": () => engine("engine-5k", benchBars(5000, DAILY.step), DAILY.timeframe),
  "engine-1m": () => engine("engine-1m", benchBars(1_000_000, MINUTES.step), MINUTES.timeframe),
  "engine-position-rules": () => positionRules(line),
  "shares-40": () => fortyShares(line),
  "fine-bars": () => fineBars(line),
  "memory-1m": () => memory(line),
  "trial-one-thread": singleThread,
  "optimization-10k": () => optimization("optimization-10k", "trades"),
  "optimization-10k-all": () => optimization("optimization-10k-all", "all"),
  evolution,
  "probe-parameters": () => shakenParameters(line),
  "probes-heavy": heavyProbes,
  portfolios: () => portfolios(line),
  "import-1m": () => importMillion(line),
  "resample-1m": () => readAndResample(line),
  compile: () => compiling(line),
  functions: () => functions(line),
};
if (only !== null && !(only in measures)) {
  console.error(`there is no measure “${only}”; there are ${Object.keys(measures).join(", ")}`);
  process.exit(1);
}
for (const [name, measure] of Object.entries(measures)) if (only === null || only === name) await measure();
