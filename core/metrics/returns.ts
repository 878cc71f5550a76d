import { isIntraday, mondayOf, monthOf, type Timeframe } from "#core/bars";
import type { PreparedRun } from "#core/engine";

/** The period that a session date belongs to in a series of returns: the date, its week, or its month, by the timeframe of the bars. */
export function periodKey(date: number, timeframe: Timeframe): number {
  return timeframe.unit === "week" ? mondayOf(date) : timeframe.unit === "month" ? monthOf(date) : date;
}

const knownEnds = new WeakMap<PreparedRun, Int32Array>();

/** Index of each period's last clock time; found once for a run and shared by its trials. */
export function periodEnds(run: PreparedRun): Int32Array {
  let ends = knownEnds.get(run);
  if (ends === undefined) knownEnds.set(run, (ends = findEnds(run)));
  return ends;
}

function findEnds(run: PreparedRun): Int32Array {
  const { dates } = run.clock;
  const { timeframe } = run.members[0].compiled;
  const ends = new Int32Array(dates.length);
  let count = 0;
  if (timeframe.unit === "day" || isIntraday(timeframe)) {
    for (let t = 0; t < dates.length; t++) if (t + 1 === dates.length || dates[t + 1] !== dates[t]) ends[count++] = t;
  } else
    for (let t = 0; t < dates.length; t++)
      if (t + 1 === dates.length || periodKey(dates[t + 1], timeframe) !== periodKey(dates[t], timeframe)) ends[count++] = t;
  return ends.subarray(0, count);
}

/**
 * Simple returns from period to period, the first against the capital; null where an equity at a period's end is ≤ 0.
 * `memory` may hold them.
 */
export function periodReturns(
  equity: Float64Array,
  ends: Int32Array,
  capital: number,
  memory = new Float64Array(ends.length),
): Float64Array | null {
  const out = memory.length === ends.length ? memory : new Float64Array(ends.length);
  const every = ends.length === equity.length;
  let before = capital;
  for (let k = 0; k < out.length; k++) {
    const now = every ? equity[k] : equity[ends[k]];
    if (!(now > 0)) return null;
    out[k] = now / before - 1;
    before = now;
  }
  return out;
}

/** Periods per year for annualising: 12, 52, or days of the first market's week · 252/5, and 365 where it trades all seven. */
export function periodsPerYear(run: PreparedRun): number {
  const { timeframe } = run.members[0].compiled;
  if (timeframe.unit === "month") return 12;
  if (timeframe.unit === "week") return 52;
  const market = run.markets[run.members[0].markets[0]];
  const { session } = market.spec;
  if (session !== null) {
    const days = new Set(session.days).size;
    return days === 7 ? 365 : (252 * days) / 5;
  }
  return market.weekends ? 365 : 252;
}
