import type { RunMarket } from "#core/engine";
import { mean, sampleDeviation } from "#core/metrics";
import { checkRule, EMPTY_SCOPE, type RuleProblem } from "#core/rules";

/** What a condition said at the last close of each session date: 1 yes, 0 no (a comparison with something missing says no). */
export interface RegimeDays {
  dates: Float64Array;
  said: Float64Array;
}

export type RegimeOutcome = { value: RegimeDays; problems: [] } | { value: null; problems: RuleProblem[] };

/** A condition in the rule notation on a market's bars, by session date. Other markets that it names must be linked to the market's columns. */
export function regimeDays(market: RunMarket, rule: string): RegimeOutcome {
  const { formula, problems } = checkRule(rule, EMPTY_SCOPE, "yesno");
  if (formula === null) return { value: null, problems };
  const column = market.store.column(formula, {});
  const dates: number[] = [];
  const said: number[] = [];
  for (let row = 0; row < market.bars.length; row++) {
    if (dates[dates.length - 1] === market.dates[row]) said[said.length - 1] = column[row];
    else {
      dates.push(market.dates[row]);
      said.push(column[row]);
    }
  }
  return { value: { dates: Float64Array.from(dates), said: Float64Array.from(said) }, problems: [] };
}

/** Figures of the days of one kind, put together as if nothing lay between them. */
export interface RegimeRow {
  days: number;
  /** growth of all of them, and as a year of such days would have it, % */
  netPercent: number;
  yearPercent: number;
  /** % a year; null for fewer than two days */
  volatility: number | null;
  sharpe: number | null;
  maxDrawdownPercent: number;
}

export interface DividedDays {
  yes: RegimeRow;
  no: RegimeRow;
  all: RegimeRow;
  /** days before the first on which the condition was asked; they are in `all` only */
  unknown: number;
}

/**
 * Divides returns by what a condition had said before each of them: the last close of an earlier date counts, so that it
 * could have been acted on.
 */
export function divided(dates: ArrayLike<number>, returns: ArrayLike<number>, regime: RegimeDays, perYear: number): DividedDays {
  const kinds: Record<"yes" | "no" | "all", number[]> = { yes: [], no: [], all: [] };
  const states = statesBefore(dates, regime);
  for (let k = 0; k < dates.length; k++) {
    kinds.all.push(returns[k]);
    if (states[k] === 1) kinds.yes.push(returns[k]);
    else if (states[k] === 0) kinds.no.push(returns[k]);
  }
  return {
    yes: rowOf(kinds.yes, perYear),
    no: rowOf(kinds.no, perYear),
    all: rowOf(kinds.all, perYear),
    unknown: kinds.all.length - kinds.yes.length - kinds.no.length,
  };
}

/** What the condition had said at the last close before each date, NaN before the first; dates rise. */
export function statesBefore(dates: ArrayLike<number>, regime: RegimeDays): Float64Array {
  let at = -1;
  return Float64Array.from(dates, (date) => {
    while (at + 1 < regime.dates.length && regime.dates[at + 1] < date) at++;
    return at < 0 ? NaN : regime.said[at];
  });
}

function rowOf(returns: readonly number[], perYear: number): RegimeRow {
  let [value, peak, deepest] = [1, 1, 0];
  for (const r of returns) {
    value *= 1 + r;
    if (value > peak) peak = value;
    deepest = Math.max(deepest, (peak - value) / peak);
  }
  const deviation = returns.length < 2 ? NaN : sampleDeviation(returns);
  return {
    days: returns.length,
    netPercent: 100 * (value - 1),
    yearPercent: returns.length === 0 || value <= 0 ? 0 : 100 * (value ** (perYear / returns.length) - 1),
    volatility: Number.isNaN(deviation) ? null : 100 * deviation * Math.sqrt(perYear),
    sharpe: deviation > 0 ? (mean(returns) / deviation) * Math.sqrt(perYear) : null,
    maxDrawdownPercent: 100 * deepest,
  };
}

/** Stretches of dates on which a condition says yes: first and last date of each. */
export function yesStretches({ dates, said }: RegimeDays): { from: number; to: number }[] {
  const out: { from: number; to: number }[] = [];
  for (let k = 0; k < dates.length; k++) {
    if (said[k] !== 1) continue;
    if (k > 0 && said[k - 1] === 1) out[out.length - 1].to = dates[k];
    else out.push({ from: dates[k], to: dates[k] });
  }
  return out;
}
