import { simulate, type RunMarket } from "#core/engine";
import { compileStrategy } from "#core/engine";
import { prepareBacktest, runMarkets, timeframeProblems } from "#core/runs";
import { fetchBars } from "./fetch-bars";
import type { BacktestAnswer, BacktestRequest } from "./protocol";
import { viewOf } from "./view";
import { warmUp } from "./warm-up";

let shared: { key: string; markets: RunMarket[] } | null = null;

/** Computes one backtest; columns that an earlier one needed on the same markets are used again. */
async function answer({ id, strategy, settings }: BacktestRequest): Promise<BacktestAnswer> {
  try {
    const own = await Promise.all(settings.markets.map((market) => fetchBars(market.bars)));
    const start = performance.now();
    const compiled = compileStrategy(strategy);
    let markets: RunMarket[] | undefined;
    if (compiled.value !== null && timeframeProblems(settings, compiled.value.timeframe).length === 0) {
      const key = JSON.stringify([settings.markets, compiled.value.timeframe]);
      if (shared?.key !== key) shared = { key, markets: runMarkets(settings, own, compiled.value.timeframe) };
      markets = shared.markets;
    }
    const prepared = prepareBacktest(strategy, settings, own, markets);
    if (prepared.run === null) return { id, view: null, problems: prepared.problems };
    const view = viewOf(simulate(prepared.run, { record: true }), 0);
    view.took = performance.now() - start;
    return { id, view, problems: [] };
  } catch (error) {
    return { id, view: null, problems: [], failed: error instanceof Error ? error.message : String(error) };
  }
}

let waiting: BacktestRequest | null = null;
let busy = false;
let warm = 0;

const pause = () => new Promise<void>((resolve) => setTimeout(resolve));

self.onmessage = async (event: MessageEvent<BacktestRequest>) => {
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
