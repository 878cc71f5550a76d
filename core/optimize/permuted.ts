import { MarketCalendar, parseDate, parseTimeframe, sessionDates, type Bars } from "#core/bars";
import type { Settings } from "#core/documents";
import { METRIC_INDEX } from "#core/metrics";
import { Random } from "#core/random";
import { dateBlocks, permutedBars } from "#core/synthetic";
import { computeSearch, prepareRuns, type OptimizationInput } from "./chunk";
import { bestOf, fitsOf } from "./fits";
import { searchTrials } from "./optimize";
import type { Space } from "./space";

/** How bars are permuted: in blocks of so many session dates, by a seed. */
export interface Permuting {
  days: number;
  seed: number;
}

/**
 * Bars of run settings in which nothing that lasts longer than a block is left to be found, within the settings' dates; one
 * independent stream a repetition and market. Bars before the dates warm up as they are, bars after them are cut off.
 */
export function permutedMarkets(settings: Settings, bars: readonly Bars[], { days, seed }: Permuting, repetition: number): Bars[] {
  const [from, to] = [settings.from, settings.to].map((date) => (date === null ? null : parseDate(date)));
  return settings.markets.map((market, i) => {
    const calendar = new MarketCalendar(market.session ?? null);
    const dates = sessionDates(bars[i].time, parseTimeframe(market.timeframe)!, calendar);
    let [first, end] = [0, bars[i].length];
    while (from !== null && first < end && dates[first] < from) first++;
    while (to !== null && end > first && dates[end - 1] > to) end--;
    // the first bar of all has no close before it to be measured against
    const blocks = dateBlocks(dates, Math.max(first, 1), end, days);
    return permutedBars(bars[i], blocks, new Random(seed, repetition * settings.markets.length + i), market.tick);
  });
}

/** The best that a whole search finds on permuted bars: its first objective's figure, null where no trial is inside the limits. */
export function bestByLuck(
  space: Space,
  input: Pick<OptimizationInput, "settings" | "search">,
  bars: readonly Bars[],
  permuting: Permuting,
  repetition: number,
): number | null {
  const { settings, search } = input;
  const runs = prepareRuns(space.compiled, input, permutedMarkets(settings, bars, permuting, repetition));
  const { trials } = searchTrials(space, search, (combinations, first) =>
    computeSearch({ grid: space, runs }, search, combinations, first),
  );
  const metrics = trials.map((trial) => trial.metrics);
  const best = bestOf(fitsOf(metrics, search.objective, search.limits));
  return best === null ? null : metrics[best][METRIC_INDEX[search.objective[0].metric]];
}

/**
 * How often luck reaches a figure: (repetitions that are at least as good + 1) ÷ (repetitions + 1), so that few repetitions
 * never prove much (North, Curtis and Sham 2002). Those without a value did not reach it.
 */
export function reachedByLuck(best: readonly (number | null)[], own: number, want: "more" | "less"): { count: number; share: number } {
  const count = best.filter((value) => value !== null && (want === "less" ? value <= own : value >= own)).length;
  return { count, share: (count + 1) / (best.length + 1) };
}
