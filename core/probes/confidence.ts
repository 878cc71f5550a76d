import { median, METRIC_INDEX, METRICS, percentile } from "#core/metrics";
import type { Drawing } from "./drawings";
import type { Figures } from "./runs";

/** Shares of the runs, in percent, of which the table says what they reach. */
export const PERCENTS = [50, 80, 90, 95, 99];

const TABLE = ["netPercent", "cagr", "maxDrawdownPercent", "mar", "profitFactor", "sharpe", "averageTrade", "winRate", "trades"];

/**
 * What so many percent of the runs reach, metric by metric: the value that so many are at least as good as. Runs without a
 * value did not reach any. Null where fewer runs than that have one.
 */
export function confidence(
  runs: readonly Figures[],
  real: Figures,
  metrics: readonly string[] = TABLE,
): Extract<Drawing, { kind: "confidence" }> {
  return {
    kind: "confidence",
    runs: runs.length,
    percents: PERCENTS,
    rows: metrics.map((metric) => {
      const at = METRIC_INDEX[metric];
      const less = METRICS[metric].better === "less";
      const worst = less ? Infinity : -Infinity;
      const column = Float64Array.from(runs, (figures) => figures[at] ?? worst);
      return {
        metric,
        real: real[at],
        values: PERCENTS.map((percent) => {
          const value = runs.length === 0 ? NaN : percentile(column, less ? percent : 100 - percent);
          return Number.isFinite(value) ? value : null;
        }),
      };
    }),
  };
}

/** A figure's values over the runs that have one. */
export const columnOf = (runs: readonly Figures[], metric: string): number[] =>
  runs.flatMap((figures) => {
    const value = figures[METRIC_INDEX[metric]];
    return value === null ? [] : [value];
  });

/** A run is as good as asked: its profit factor reaches a mark (without losers: with a winner). */
export function reachesMark(figures: Figures, mark: number): boolean {
  const factor = figures[METRIC_INDEX.profitFactor];
  return factor === null ? (figures[METRIC_INDEX.winners] ?? 0) > 0 : factor >= mark;
}

/** Share in percent of runs whose profit factor reaches a mark. */
export const shareReaching = (runs: readonly Figures[], mark: number): number =>
  runs.length === 0 ? 0 : (100 * runs.filter((figures) => reachesMark(figures, mark)).length) / runs.length;

/** At most so many values of a list, evenly spaced over its sorted order, so that a drawing of it stays small. */
export function thinned(values: readonly number[], most = 1000): number[] {
  const sorted = [...values].sort((a, b) => a - b);
  if (sorted.length <= most) return sorted;
  return Array.from({ length: most }, (_, k) => sorted[Math.round((k * (sorted.length - 1)) / (most - 1))]);
}

/** What changed runs are worth against the real one: how many hold, and what their median keeps of its net, in percent. */
export function againstReal(
  real: Figures,
  runs: readonly Figures[],
  mark: number,
): { nets: number[]; own: number; share: number; kept: number | null } {
  const nets = columnOf(runs, "netPercent");
  const own = real[METRIC_INDEX.netPercent]!;
  const kept = own > 0 && nets.length > 0 ? (100 * median(nets)) / own : null;
  return { nets, own, share: shareReaching(runs, mark), kept };
}
