import { firstAtOrAfter } from "#core/bars";
import type { Metrics, Settings, Strategy } from "#core/documents";
import { compileStrategy, simulate, type RunMarket, type Simulation } from "#core/engine";
import { wholeMetrics } from "#core/metrics";
import { checkRule } from "#core/rules";
import { backtest, prepareBacktest, runMarkets, timeframeProblems, Why, type RunProblem } from "#core/runs";
import { fetchBars } from "./fetch-bars";
import type { BacktestAnswer, BacktestRequest, WhyAnswer, WhyRequest } from "./protocol";
import { viewOf } from "./view";
import { warmUp } from "./warm-up";

let shared: { key: string; markets: RunMarket[] } | null = null;
let held: { key: string; simulation: Simulation; whys: Map<string, Why> } | null = null;

type Ran = { simulation: Simulation; problems: [] } | { simulation: null; problems: RunProblem[] };

/** Runs a strategy; columns that an earlier run needed on the same markets are used again. */
async function run(strategy: Strategy, settings: Settings): Promise<Ran & { since: number }> {
  const own = await Promise.all(settings.markets.map((market) => fetchBars(market.bars)));
  const since = performance.now();
  const compiled = compileStrategy(strategy);
  let markets: RunMarket[] | undefined;
  if (compiled.value !== null && timeframeProblems(settings, compiled.value.timeframe).length === 0) {
    const key = JSON.stringify([settings.markets, settings.fineTimeframe, compiled.value.timeframe]);
    if (shared?.key !== key) shared = { key, markets: runMarkets(settings, own, compiled.value.timeframe) };
    markets = shared.markets;
  }
  const prepared = prepareBacktest(strategy, settings, own, markets);
  if (prepared.run === null) return { simulation: null, problems: prepared.problems, since };
  const simulation = simulate(prepared.run, { record: true });
  return { simulation, problems: [], since };
}

async function answer({ id, strategy, settings }: BacktestRequest): Promise<BacktestAnswer> {
  try {
    const { simulation, problems, since } = await run(strategy, settings);
    if (simulation === null) return { id, view: null, problems };
    held = { key: JSON.stringify([strategy, settings]), simulation, whys: new Map() };
    const view = viewOf(simulation, 0);
    view.took = performance.now() - since;
    return { id, view, problems: [] };
  } catch (error) {
    return { id, view: null, problems: [], failed: said(error) };
  }
}

const said = (error: unknown): string => (error instanceof Error ? error.message : String(error));

/** Answers why: from the run at hand where it is the one that is asked about, else from one of its own. */
async function why(request: WhyRequest): Promise<WhyAnswer> {
  const { id, strategy, settings, symbol } = request;
  try {
    if (request.what === "variants") return { id, what: "variants", metrics: await variants(strategy, settings, request.definition) };
    if (request.what === "settings") return { id, what: "settings", metrics: await underSettings(strategy, request.list) };
    if (request.what === "result") return { id, what: "result", text: await resultText(strategy, settings) };
    const key = JSON.stringify([strategy, settings]);
    if (held?.key !== key) {
      const { simulation, problems } = await run(strategy, settings);
      if (simulation === null) return { id, what: "failed", message: problems[0].message };
      held = { key, simulation, whys: new Map() };
    }
    const { simulation, whys } = held;
    const legIndex = simulation.legs.findIndex((leg) => leg.market.spec.symbol === symbol);
    if (legIndex < 0) return { id, what: "failed", message: `${symbol} isn't one of the run's markets` };
    const { market, member } = simulation.legs[legIndex];
    let asked = whys.get(symbol);
    if (asked === undefined) whys.set(symbol, (asked = new Why(simulation, legIndex)));
    if (request.what === "conditions") return { id, what: "conditions", times: market.bars.time.slice(), rules: asked.conditions() };
    const row = firstAtOrAfter(market.bars.time, request.time);
    if (market.bars.time[row] !== request.time) return { id, what: "failed", message: "there is no such bar" };
    if (request.what === "bar") return { id, what: "bar", rules: asked.at(row), position: heldAt(simulation, legIndex, row) };
    const { formula } = checkRule(request.text, member.compiled.scope);
    if (formula === null) return { id, what: "failed", message: "this can't be read" };
    return { id, what: "value", kind: formula.kind, value: asked.value(formula, row) };
  } catch (error) {
    return { id, what: "failed", message: said(error) };
  }
}

/** The figures of a strategy under each variant of one definition. */
async function variants(strategy: Strategy, settings: Settings, name: string): Promise<(Metrics | null)[]> {
  const { variants: list = [] } = strategy.definitions?.find((definition) => definition.name === name) ?? {};
  const out: (Metrics | null)[] = [];
  for (let chosen = 1; chosen <= list.length; chosen++) {
    const one = {
      ...strategy,
      definitions: strategy.definitions!.map((definition) => (definition.name === name ? { ...definition, chosen } : definition)),
    };
    const { simulation } = await run(one, settings);
    out.push(simulation === null ? null : wholeMetrics(simulation));
  }
  return out;
}

/** The figures of a strategy under each of some run settings; null where one can't be run. */
async function underSettings(strategy: Strategy, list: readonly Settings[]): Promise<(Metrics | null)[]> {
  const out: (Metrics | null)[] = [];
  for (const settings of list) {
    const { simulation } = await run(strategy, settings);
    out.push(simulation === null ? null : wholeMetrics(simulation));
  }
  return out;
}

/** The run as `canyon.result/1`, the same bytes as on the server and on the command line. */
async function resultText(strategy: Strategy, settings: Settings): Promise<string> {
  const own = await Promise.all(settings.markets.map((market) => fetchBars(market.bars)));
  const { result, problems } = backtest(strategy, settings, own);
  if (result === null) throw new Error(problems[0].message);
  return JSON.stringify(result);
}

/** What was held at a bar's close, in words. */
function heldAt({ log }: Simulation, legIndex: number, row: number): string {
  const open: string[] = [];
  for (let trade = 0; trade < log.count; trade++)
    if (log.leg[trade] === legIndex && log.entryRow[trade] <= row && (log.reason[trade] === 0 || log.exitRow[trade] > row))
      open.push(`${log.side[trade] === 1 ? "long" : "short"} since trade ${trade + 1}`);
  return open.length === 0 ? "flat" : open.join(", ");
}

let waiting: BacktestRequest | null = null;
let busy = false;
let warm = 0;

const pause = () => new Promise<void>((resolve) => setTimeout(resolve));

self.onmessage = async (event: MessageEvent<BacktestRequest | WhyRequest>) => {
  if ("what" in event.data) {
    self.postMessage(await why(event.data));
    return;
  }
  waiting = event.data;
  if (busy) return;
  busy = true;
  // only the newest request counts: a slider asks faster than anyone can look
  let last: BacktestRequest | null = null;
  while (waiting !== null) {
    last = waiting;
    waiting = null;
    self.postMessage(await answer(last));
    await pause();
  }
  busy = false;
  // a young worker's code is not compiled yet; computing the same again while nobody waits makes the next answer fast
  for (; warm < 12 && waiting === null && last?.often; warm++) {
    await answer(last);
    await pause();
  }
};

warmUp();
