import { formatMonth, monthOf } from "#core/bars";
import type { PeriodRow } from "#core/documents";
import type { Simulation } from "#core/engine";

/** Results by calendar month and year of the session dates: percent on the equity at the period's start, and net of the trades closed in it ÷ capital, in percent. */
export function periodTables(simulation: Simulation): { months: PeriodRow[]; years: PeriodRow[] } {
  return { months: table(simulation, monthOf, formatMonth), years: table(simulation, yearOf, String) };
}

const yearOf = (date: number): number => Math.floor(monthOf(date) / 12) + 1970;

function table(simulation: Simulation, keyOf: (date: number) => number, label: (key: number) => string): PeriodRow[] {
  const { run, equity, log, legs } = simulation;
  const { dates } = run.clock;
  const { capital } = run.account;
  const closed = new Map<number, number>();
  for (let row = 0; row < log.count; row++) {
    if (log.reason[row] === 0) continue;
    const key = keyOf(legs[log.leg[row]].market.dates[log.exitRow[row]]);
    closed.set(key, (closed.get(key) ?? 0) + log.net(row));
  }
  const rows: PeriodRow[] = [];
  let start = capital;
  for (let t = 0; t < dates.length; t++) {
    if (t + 1 < dates.length && dates[t + 1] === dates[t]) continue;
    const key = keyOf(dates[t]);
    if (t + 1 < dates.length && keyOf(dates[t + 1]) === key) continue;
    rows.push({
      period: label(key),
      percent: start > 0 ? 100 * (equity[t] / start - 1) : null,
      uncompounded: (100 * (closed.get(key) ?? 0)) / capital,
    });
    start = equity[t];
  }
  return rows;
}
