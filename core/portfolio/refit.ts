import { firstOfMonth, formatDate, monthOf, parseDate, type Bars, type DayNumber } from "#core/bars";
import type { Settings } from "#core/documents";
import type { StrategyProblem } from "#core/engine";
import type { Weighting } from "./document";
import { estimateWeights, type WeightsResult } from "./estimate";
import { prepareMembers, type Member } from "./portfolio";

/** Weights that hold from a date on, and the dates that they were estimated on; the first ones hold from the start. */
export interface FittedWeights {
  /** null: from the start */
  from: string | null;
  on: { from: string; to: string } | null;
  weights: number[];
}

export type FittedResult = { value: FittedWeights[]; problems: [] } | { value: null; problems: StrategyProblem[] };

/** The same day some months later, or the last of that month where it has no such day. */
function monthsLater(date: DayNumber, months: number): DayNumber {
  const month = monthOf(date) + months;
  return Math.min(firstOfMonth(month) + (date - firstOfMonth(monthOf(date))), firstOfMonth(month + 1) - 1);
}

/**
 * All weights of a portfolio along the way. With `every` (months) estimated weights are estimated anew each so many months
 * after the end of the first stretch, on the stretch of as many months that ends the day before; else there is one set.
 * A stretch that a member can't be estimated on refuses the whole. `bars` in the order of the settings' markets.
 */
export function fitWeights(members: readonly Member[], weighting: Weighting, settings: Settings, bars: readonly Bars[]): FittedResult {
  const { every } = weighting;
  const on = (from: DayNumber, to: DayNumber): WeightsResult =>
    estimateWeights(members, { ...weighting, from: formatDate(from), to: formatDate(to) }, settings, bars);
  if (every === undefined) {
    const { value, problems } = estimateWeights(members, weighting, settings, bars);
    if (value === null) return { value: null, problems };
    const { from, to } = weighting;
    return { value: [{ from: null, on: isEstimated(weighting) ? { from: from!, to: to! } : null, weights: value }], problems: [] };
  }
  const [from, to] = [parseDate(weighting.from!)!, parseDate(weighting.to!)!];
  const end = endOfBars(members, settings, bars);
  const value: FittedWeights[] = [];
  for (let k = 0; ; k++) {
    const [a, b] = [monthsLater(from, k * every), monthsLater(to, k * every)];
    if (k > 0 && b >= end) break;
    const fitted = on(a, b);
    if (fitted.value === null)
      return {
        value: null,
        problems: fitted.problems.map((p) => ({
          ...p,
          message: k === 0 ? p.message : `${formatDate(a)} to ${formatDate(b)}: ${p.message}`,
        })),
      };
    value.push({ from: k === 0 ? null : formatDate(b + 1), on: { from: formatDate(a), to: formatDate(b) }, weights: fitted.value });
  }
  return { value, problems: [] };
}

export const isEstimated = ({ mode }: Pick<Weighting, "mode">): boolean => mode !== "given" && mode !== "equal";

/** Members with all weights that they get along the way. */
export const withWeights = (members: readonly Member[], fitted: readonly FittedWeights[]): Member[] =>
  members.map((member, m) => ({
    ...member,
    weight: fitted[0].weights[m],
    ...(fitted.length === 1
      ? {}
      : { steps: fitted.slice(1).map(({ from, weights }) => ({ from: parseDate(from!)!, weight: weights[m] })) }),
  }));

/** The last session date of any bar within the settings' dates. */
function endOfBars(members: readonly Member[], settings: Settings, bars: readonly Bars[]): DayNumber {
  const prepared = prepareMembers(members, settings, bars);
  const last = Math.max(...(prepared.value?.markets ?? []).map(({ dates }) => dates[dates.length - 1] ?? -Infinity));
  return settings.to === null ? last : Math.min(last, parseDate(settings.to)!);
}
