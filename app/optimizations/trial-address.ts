import type { OptimizationView } from "#server/optimizations";

type Optimized = Pick<OptimizationView, "versionNumber" | "strategyId" | "settings">;

/** Where a trial's values are looked at as a live backtest. */
export function trialAddress({ versionNumber, strategyId, settings }: Optimized, values: Readonly<Record<string, number>>): string {
  const params = new URLSearchParams({
    v: String(versionNumber),
    set: Object.entries(values)
      .map(([name, x]) => `${name}:${Number(x.toPrecision(12))}`)
      .join(","),
    market: settings.markets[0].symbol,
  });
  if (settings.from) params.set("from", settings.from);
  if (settings.to) params.set("to", settings.to);
  return `/strategies/${strategyId}?${params}`;
}
