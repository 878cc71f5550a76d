import type { OptimizationView } from "#server/optimizations";

type Optimized = Pick<OptimizationView, "id" | "number" | "versionNumber" | "strategyId" | "settings">;

/** Where a trial's values are looked at as a live backtest; `trial`: its number, for the note of a version that takes them over. */
export function trialAddress(
  { number, versionNumber, strategyId, settings }: Optimized,
  values: Readonly<Record<string, number>>,
  trial: number,
): string {
  const params = new URLSearchParams({
    v: String(versionNumber),
    set: Object.entries(values)
      .map(([name, x]) => `${name}:${Number(x.toPrecision(12))}`)
      .join(","),
    origin: originOf(number, trial),
    market: settings.markets[0].symbol,
    others: settings.markets
      .slice(1)
      .map((market) => market.symbol)
      .join(","),
  });
  if (settings.markets.length === 1) params.delete("others");
  if (settings.from) params.set("from", settings.from);
  if (settings.to) params.set("to", settings.to);
  return `/strategies/${strategyId}?${params}`;
}

/** Where values come from, as the note of a version says it. */
export const originOf = (optimization: number, trial: number): string => `values of trial ${trial} of optimization ${optimization}`;
