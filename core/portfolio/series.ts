import { mondayOf, monthOf } from "#core/bars";
import type { Simulation } from "#core/engine";
import { periodEnds } from "#core/metrics";

export const FREQUENCIES = ["day", "week", "month"] as const;
export type Frequency = (typeof FREQUENCIES)[number];

/** What an account and each member of it made from period to period. Money. */
export interface PeriodChanges {
  /** session date of each period's last point */
  dates: Float64Array;
  /** by member; together they are `total`, but for rounding */
  members: Float64Array[];
  total: Float64Array;
  /** equity before each period */
  before: Float64Array;
}

const KEYS: Record<Frequency, (date: number) => number> = { day: (date) => date, week: mondayOf, month: monthOf };

/**
 * Changes of a portfolio's equity and of its members' own profit, by session date, week or month, of the periods that end
 * within two dates (both included). Bars of a week or a month have no finer periods than their own.
 */
export function periodChanges(simulation: Simulation, frequency: Frequency, from = -Infinity, to = Infinity): PeriodChanges {
  const { run, equity, memberProfit } = simulation;
  if (memberProfit === null) throw new Error("the simulation did not keep its members' profit");
  const { dates } = run.clock;
  const key = KEYS[frequency];
  const ends: number[] = [];
  for (const end of periodEnds(run)) {
    if (ends.length > 0 && key(dates[ends[ends.length - 1]]) === key(dates[end])) ends.pop();
    ends.push(end);
  }
  const first = ends.findIndex((end) => dates[end] >= from);
  const own = first < 0 ? [] : ends.slice(first).filter((end) => dates[end] <= to);
  const start = first > 0 ? ends[first - 1] : -1;
  const changes = (values: Float64Array, zero: number) =>
    Float64Array.from(own, (end, k) => {
      const at = k === 0 ? start : own[k - 1];
      return values[end] - (at < 0 ? zero : values[at]);
    });
  return {
    dates: Float64Array.from(own, (end) => dates[end]),
    members: memberProfit.map((profit) => changes(profit, 0)),
    total: changes(equity, run.account.capital),
    before: Float64Array.from(own, (_, k) => {
      const at = k === 0 ? start : own[k - 1];
      return at < 0 ? run.account.capital : equity[at];
    }),
  };
}

/** What each member added to the account's return of every period: its change ÷ the equity before; null where that was ≤ 0. */
export function addedReturns({ members, before }: PeriodChanges): Float64Array[] | null {
  if (before.some((equity) => !(equity > 0))) return null;
  return members.map((changes) => changes.map((change, k) => change / before[k]));
}
