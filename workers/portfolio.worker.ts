import { parseDate, type Bars } from "#core/bars";
import { simulate } from "#core/engine";
import {
  fitWeights,
  isEstimated,
  prepareMembers,
  stretchRow,
  withWeights,
  wholeRun,
  type FittedWeights,
  type PreparedMembers,
} from "#core/portfolio";
import { switched } from "#core/regimes";
import { fetchBars } from "./fetch-bars";
import type { PortfolioAnswer, PortfolioRequest } from "./portfolio-protocol";

let shared: { key: string; prepared: PreparedMembers } | null = null;
let weighed: { key: string; fitted: FittedWeights[] } | null = null;

/** Runs a portfolio; what does not rest on the weights is made once for all weights that follow. */
async function answer({ id, members: given, settings, weighting }: PortfolioRequest): Promise<PortfolioAnswer> {
  const members = given.map(({ condition, strategy, ...member }) => ({
    ...member,
    strategy: condition === undefined ? strategy : switched(strategy, condition),
  }));
  const bars: Bars[] = await Promise.all(settings.markets.map((market) => fetchBars(market.bars)));
  const since = performance.now();
  const key = JSON.stringify([members.map(({ weight: _weight, ...member }) => member), settings]);
  if (shared?.key !== key) {
    const made = prepareMembers(members, settings, bars);
    if (made.value === null) return { id, view: null, problems: made.problems };
    shared = { key, prepared: made.value };
    weighed = null;
  }
  // estimated weights rest on everything but the weights themselves
  const weightKey = JSON.stringify([weighting, isEstimated(weighting) ? [] : members.map(({ weight }) => weight)]);
  if (weighed?.key !== weightKey) {
    const fitted = fitWeights(members, weighting, settings, bars);
    if (fitted.value === null) return { id, view: null, problems: fitted.problems };
    weighed = { key: weightKey, fitted: fitted.value };
  }
  const weighted = withWeights(members, weighed.fitted);
  const runMembers = shared.prepared.runMembers.map((member, m) => ({ ...member, weight: weighted[m].weight, steps: weighted[m].steps }));
  const simulation = simulate(wholeRun({ prepared: { ...shared.prepared, runMembers }, settings }), { members: true });
  const { clock } = simulation.run;
  const end = isEstimated(weighting) ? parseDate(weighting.to!)! : null;
  return {
    id,
    problems: [],
    view: {
      times: clock.times.slice(),
      equity: simulation.equity,
      weights: weighed.fitted[0].weights,
      refits: weighed.fitted.length - 1,
      profits: simulation.memberProfit!.map((profit) => profit[profit.length - 1]),
      figures: stretchRow(simulation),
      estimated: end === null ? null : stretchRow(simulation, parseDate(weighting.from!)!, end),
      judged: end === null ? null : stretchRow(simulation, end + 1),
      took: performance.now() - since,
    },
  };
}

let waiting: PortfolioRequest | null = null;
let busy = false;

self.onmessage = async (event: MessageEvent<PortfolioRequest>) => {
  waiting = event.data;
  if (busy) return;
  busy = true;
  // only the newest request counts: a slider asks faster than anyone can look
  while (waiting !== null) {
    const next: PortfolioRequest = waiting;
    waiting = null;
    try {
      self.postMessage(await answer(next));
    } catch (error) {
      const message = error instanceof Error ? error.message : String(error);
      self.postMessage({ id: next.id, view: null, problems: [{ path: "", message }] } satisfies PortfolioAnswer);
    }
    await new Promise<void>((resolve) => setTimeout(resolve));
  }
  busy = false;
};
