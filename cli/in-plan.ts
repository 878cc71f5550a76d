import { dirname, resolve } from "node:path";
import type { Bars } from "#core/bars";
import { readSettings, readStrategy, type Read, type Settings, type Strategy } from "#core/documents";
import { InputError, problemLines, readBars, readJson, readSeries } from "./files";

/** Options of the commands that take a plan. */
export interface PlanOptions {
  plan: string;
  out?: string;
}

/** A document that a plan holds itself or names by a path relative to it. */
export function inPlan<T>(
  options: PlanOptions,
  given: unknown,
  path: string,
  read: (given: unknown) => Read<T>,
): { value: T; folder: string; file: string } {
  const folder = dirname(options.plan);
  const file = typeof given === "string" ? resolve(folder, given) : options.plan;
  const outcome = read(typeof given === "string" ? readJson(file) : given);
  if (outcome.value === null)
    throw new InputError(
      problemLines(file, typeof given === "string" ? outcome.problems : outcome.problems.map((p) => ({ ...p, path: `${path}.${p.path}` }))),
    );
  return { value: outcome.value, folder: dirname(file), file };
}

/** Settings of a plan with their bars; extra series that they name are read. */
export function settingsInPlan(options: PlanOptions, given: unknown): { settings: Settings; bars: Bars[] } {
  const { value: settings, folder } = inPlan(options, given, "settings", readSettings);
  for (const market of settings.markets)
    for (const [name, file] of Object.entries(market.series ?? {}))
      if (typeof file === "string") market.series![name] = readSeries(resolve(folder, file), market.symbol);
  return { settings, bars: settings.markets.map((market) => readBars(resolve(folder, market.bars))) };
}

export const strategyInPlan = (options: PlanOptions, given: unknown, path = "strategy"): Strategy =>
  inPlan(options, given, path, readStrategy).value;
