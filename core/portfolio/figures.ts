import { DAY } from "#core/bars";
import type { Simulation } from "#core/engine";
import { cagrOf, drawdowns, mean, periodEnds, periodsPerYear, sampleDeviation } from "#core/metrics";

/** Figures of an account over a stretch of dates; null where one can't be had. Percentages but for the ratios. */
export interface StretchRow {
  netPercent: number | null;
  cagr: number | null;
  volatility: number | null;
  sharpe: number | null;
  maxDrawdownPercent: number | null;
  /** net ÷ largest fall, both in money of the stretch */
  profitToDrawdown: number | null;
}

export const STRETCH_KEYS = ["netPercent", "cagr", "volatility", "sharpe", "maxDrawdownPercent", "profitToDrawdown"] as const;

/** No figure at all. */
export const NO_FIGURES: StretchRow = {
  netPercent: null,
  cagr: null,
  volatility: null,
  sharpe: null,
  maxDrawdownPercent: null,
  profitToDrawdown: null,
};

/**
 * Figures of a run's equity at the ends of its periods within two dates (both included); the stretch begins with the equity
 * before it. All null where no two periods lie in it or the equity was not above 0.
 */
export function stretchRow(simulation: Simulation, from = -Infinity, to = Infinity): StretchRow {
  const { run, equity } = simulation;
  const { dates, times } = run.clock;
  const ends = periodEnds(run);
  let first = 0;
  while (first < ends.length && dates[ends[first]] < from) first++;
  let last = ends.length - 1;
  while (last >= 0 && dates[ends[last]] > to) last--;
  if (last - first < 1) return NO_FIGURES;
  const start = first === 0 ? run.account.capital : equity[ends[first - 1]];
  const values = Float64Array.from({ length: last - first + 1 }, (_, k) => equity[ends[first + k]]);
  return rowOf(
    values,
    Float64Array.from(values, (_, k) => times[ends[first + k]]),
    start,
    periodsPerYear(run),
  );
}

/** The same of any series of equity at period ends, which starts from a value. */
export function rowOf(values: Float64Array, times: Float64Array, start: number, perYear: number): StretchRow {
  if (!(start > 0) || values.some((x) => !(x > 0))) return NO_FIGURES;
  const returns = Float64Array.from(values, (x, k) => x / (k === 0 ? start : values[k - 1]) - 1);
  const deviation = sampleDeviation(returns);
  const days = (times[times.length - 1] - times[0]) / DAY + 1;
  const { maxDrawdown, maxDrawdownPercent } = drawdowns(values, times, start);
  const net = values[values.length - 1] - start;
  return {
    netPercent: (100 * net) / start,
    cagr: cagrOf(values[values.length - 1], start, days),
    volatility: 100 * deviation * Math.sqrt(perYear),
    sharpe: deviation > 0 ? (mean(returns) / deviation) * Math.sqrt(perYear) : null,
    maxDrawdownPercent: maxDrawdownPercent ?? null,
    profitToDrawdown: (maxDrawdown ?? 0) > 0 ? net / maxDrawdown! : null,
  };
}
