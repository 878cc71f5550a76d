import { emptyBars, type Bars } from "#core/bars";
import { readSettings, readStrategy, type Settings, type Strategy } from "#core/documents";
import { fixtureBars } from "#core/testing/fixtures";
import { judgeFinding, PROBES, readInput, type ProbeContext, type ProbeOutcome, type ProbeRun } from ".";

/** What tests of probes run on: a crossing of a mean on a market of the fixtures, with costs. */
export const strategyOf = (more: object = {}): Strategy =>
  readStrategy({
    format: "canyon.strategy/1",
    timeframe: "1d",
    parameters: [{ name: "length", kind: "whole", value: 20, min: 5, max: 60, step: 5 }],
    long: { enter: { when: "close > sma(close, length)" }, exit: { when: "close < sma(close, length)" } },
    sizing: { mode: "equityPercent", value: 80 },
    ...more,
  }).value!;

export const settingsOf = (more: object = {}, symbol = "FERRY"): Settings =>
  readSettings({
    format: "canyon.settings/1",
    markets: [{ symbol, bars: "x", timeframe: "1d", tick: 0.25 }],
    capital: 100_000,
    costs: { perOrder: 5, spreadTicks: 1 },
    closeAtEnd: true,
    ...more,
  }).value!;

export const contextOf = (more: Partial<ProbeContext> = {}): ProbeContext => ({
  strategy: strategyOf(),
  settings: settingsOf(),
  bars: [fixtureBars("data/ferry-1d.csv")],
  others: [],
  ...more,
});

/** Runs a probe on what a form would send; its units by way of JSON and in the reverse order, as pieces of a job would come. */
export function run(kind: string, given: object, context = contextOf()): ProbeRun {
  const probe = PROBES.get(kind)!;
  const input = readInput(probe, given);
  if (input.value === null) return { outcome: null, problems: input.problems };
  const { value, problems } = probe.prepare(input.value, context);
  if (problems.length > 0) return { outcome: null, problems };
  const units = Array.from({ length: probe.units(value) }, (_, k) => k)
    .reverse()
    .map((unit) => JSON.parse(JSON.stringify(probe.compute(probe.prepare(input.value!, context).value, unit))) as unknown)
    .reverse();
  return { outcome: judgeFinding(probe, input.value, probe.conclude(value, units)), problems: [] };
}

export const outcomeOf = (...args: Parameters<typeof run>): ProbeOutcome => {
  const { outcome, problems } = run(...args);
  if (outcome === null) throw new Error(problems.map(({ path, message }) => `${path}: ${message}`).join("; "));
  return outcome;
};

/** What a criterion came to. */
export const got = (outcome: ProbeOutcome, key: string): number | null => outcome.criteria.find((one) => one.key === key)!.got;

/** Daily bars on all days from a date of 2010 on, all four prices the same. */
export function flatBars(prices: readonly number[]): Bars {
  const bars = emptyBars(prices.length);
  prices.forEach((price, k) => {
    bars.time[k] = Date.UTC(2010, 0, 4) + k * 86_400_000;
    bars.open[k] = bars.high[k] = bars.low[k] = bars.close[k] = price;
    bars.volume[k] = 1;
  });
  return bars;
}
