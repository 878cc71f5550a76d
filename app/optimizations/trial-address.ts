import type { OptimizationView } from "#server/optimizations";
import { stateOfSettings } from "~/runs/settings-state";

type Optimized = Pick<OptimizationView, "id" | "number" | "versionNumber" | "strategyId" | "settings">;

/**
 * Where a trial's values are looked at as a live backtest, under the run settings that it was computed with; `trial`: its
 * number, for the note of a version that takes them over.
 */
export function trialAddress(
  { number, versionNumber, strategyId, settings }: Optimized,
  values: Readonly<Record<string, number>>,
  trial: number,
): string {
  const set = Object.entries(values)
    .map(([name, x]) => `${name}:${Number(x.toPrecision(12))}`)
    .join(",");
  const params = new URLSearchParams({ v: String(versionNumber), set, origin: originOf(number, trial) });
  // all of them: the version may have been looked at under others since
  for (const [key, value] of Object.entries(stateOfSettings(settings))) params.set(key, value);
  return `/strategies/${strategyId}?${params}`;
}

/** Where values come from, as the note of a version says it. */
export const originOf = (optimization: number, trial: number): string => `values of trial ${trial} of optimization ${optimization}`;
