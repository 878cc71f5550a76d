import { periodEnds, periodsPerYear, runDays } from "#core/metrics";
import { againstFigures, atTimes, cashFrom, heldFrom, type AgainstFigures } from "#core/reading";
import { lineOf, type SentLine } from "./lines";
import { isRefused, refuse } from "./problem";
import type { StoredRun } from "./runs";
import type { Services } from "./services";

/** What a run can be held against: a kind and which one of it, as `market:FERRY`, `run:12`, `portfolio:3`, `list:2`, `cash:3`. */
export interface AgainstChoice {
  value: string;
  label: string;
}

export interface AgainstView {
  name: string;
  figures: AgainstFigures;
  lines: [own: SentLine, other: SentLine];
}

/** All that a run can be held against, its own markets first. */
export async function againstChoices({ markets, runs, portfolios, lists }: Services, run: StoredRun): Promise<AgainstChoice[]> {
  const own = run.summary.settings.markets.map((market) => market.symbol);
  const [all, stored, together, watch] = await Promise.all([markets.list(), runs.all(), portfolios.list(), lists.list()]);
  const symbols = [...own, ...all.map((market) => market.symbol).filter((symbol) => !own.includes(symbol))];
  return [
    ...symbols.map((symbol) => ({ value: `market:${symbol}`, label: `holding ${symbol}` })),
    ...watch
      .filter((list) => list.kind === "watch" && list.symbols.length > 0)
      .map(({ id, name }) => ({ value: `list:${id}`, label: `holding ${name} in equal parts` })),
    ...stored
      .filter(({ id }) => id !== run.summary.id)
      .map(({ id, strategyName, number }) => ({ value: `run:${id}`, label: `${strategyName}, run ${number}` })),
    ...together.map(({ id, name }) => ({ value: `portfolio:${id}`, label: `portfolio ${name}` })),
    ...[0, 2, 4, 6].map((rate) => ({ value: `cash:${rate}`, label: rate === 0 ? "cash without interest" : `cash at ${rate} % a year` })),
  ];
}

/** A run against one of them. Refuses what there is none of. */
export async function against(services: Services, run: StoredRun, choice: string): Promise<AgainstView> {
  const [{ time, equity }, prepared] = await Promise.all([run.result.curves(), services.reading.prepared(run)]);
  const { capital } = run.summary.settings;
  const { name, curve } = await other(services, run, choice, time);
  const figures = againstFigures({
    times: time,
    own: equity,
    other: curve,
    capital,
    ends: periodEnds(prepared),
    perYear: periodsPerYear(prepared),
    days: runDays({ run: prepared }),
    dates: prepared.clock.dates,
  });
  return { name, figures, lines: [lineOf("this run", time, equity), lineOf(name, time, curve)] };
}

async function other(
  services: Services,
  run: StoredRun,
  choice: string,
  times: Float64Array,
): Promise<{ name: string; curve: Float64Array }> {
  const { capital } = run.summary.settings;
  const at = choice.indexOf(":");
  const [kind, which] = [choice.slice(0, at), choice.slice(at + 1)];
  switch (kind) {
    case "market":
      return { name: `holding ${which}`, curve: await held(services, run, which, times, capital) };
    case "list": {
      const list = await services.lists.get(Number(which));
      if (list === null || list.symbols.length === 0) return refuse("vs", "there is no such list, or nothing is on it", 404);
      const parts = await Promise.all(list.symbols.map((symbol) => held(services, run, symbol, times, capital / list.symbols.length)));
      const curve = new Float64Array(times.length);
      for (const part of parts) for (let t = 0; t < curve.length; t++) curve[t] += part[t];
      return { name: `holding ${list.name} in equal parts`, curve };
    }
    case "run": {
      const stored = await services.runs.get(Number(which));
      if (stored === null) return refuse("vs", `there is no run ${which}`, 404);
      const { time, equity } = await stored.result.curves();
      const scale = capital / stored.summary.settings.capital;
      return { name: `${stored.summary.strategyName}, run ${stored.summary.number}`, curve: rebased(times, time, equity, scale, capital) };
    }
    case "portfolio": {
      const stored = await services.portfolios.get(Number(which));
      if (stored === null) return refuse("vs", `there is no portfolio ${which}`, 404);
      const { result } = await services.portfolios.compute(stored.document);
      const time = Float64Array.from(result.equity.time, (text) => Date.parse(text));
      const scale = capital / stored.document.settings.capital;
      return { name: `portfolio ${stored.name}`, curve: rebased(times, time, Float64Array.from(result.equity.equity), scale, capital) };
    }
    case "cash": {
      const rate = Number(which);
      if (which === "" || !Number.isFinite(rate) || rate <= -100) return refuse("vs", `“${which}” is no rate a year in percent`);
      return { name: rate === 0 ? "cash without interest" : `cash at ${rate} % a year`, curve: cashFrom(times, capital, rate) };
    }
  }
  return refuse("vs", `a run can be held against a market, a list, a run, a portfolio or cash; “${choice}” is none of them`);
}

/** Another account's equity at this run's times, begun with the same money on this run's first day. */
function rebased(times: Float64Array, time: Float64Array, equity: Float64Array, scale: number, capital: number): Float64Array {
  const curve = atTimes(times, time, equity, capital / scale);
  const base = curve[0] > 0 && time[0] < times[0] ? curve[0] * scale : capital;
  return curve.map((value) => (value * scale * capital) / base);
}

async function held(services: Services, run: StoredRun, symbol: string, times: Float64Array, money: number): Promise<Float64Array> {
  const own = run.summary.settings.markets.find((market) => market.symbol === symbol);
  const market = own === undefined ? (await services.markets.list()).find((one) => one.symbol === symbol) : undefined;
  if (own === undefined && market === undefined) return refuse("vs", `there is no market ${symbol}`, 404);
  const given =
    own === undefined
      ? { hash: market!.barsHash, timeframe: market!.timeframe, session: market!.spec.session }
      : { hash: own.bars, timeframe: own.timeframe, session: own.session ?? null };
  // in the run's own timeframe where its bars give that, so that both curves have their closes at the same times
  const hash = await services.derived
    .get(given.hash, given.timeframe, run.version.strategy.timeframe, given.session)
    .then(({ hash: derived }) => derived)
    .catch((error: unknown) => {
      if (!isRefused(error)) throw error;
      return given.hash;
    });
  const [bars] = await services.bars.all([hash]);
  return heldFrom(bars, times, money);
}
