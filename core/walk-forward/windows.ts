import { parseDate, type DayNumber } from "#core/bars";
import type { RunMarket } from "#core/engine";

/** A stretch of dates by their numbers: the first, and the one after the last. */
export interface Part {
  from: number;
  to: number;
}

export interface Window {
  fit: Part;
  judge: Part;
}

/** Session dates of the first market's bars within two dates (both included), each once. */
export function datesWithin(market: RunMarket, from: string | null, to: string | null): DayNumber[] {
  const first = from === null ? -Infinity : parseDate(from)!;
  const last = to === null ? Infinity : parseDate(to)!;
  const out: DayNumber[] = [];
  for (const date of market.dates) if (date >= first && date <= last && out[out.length - 1] !== date) out.push(date);
  return out;
}

/** How many dates a window is judged on, before rounding: n ÷ (windows + 1/w − 1) with w the share out of sample. */
export const outDates = (n: number, windows: number, outShare: number): number => n / (windows + 100 / outShare - 1);

/** The windows of n dates: each is fitted on what lies before, then judged on what follows; together they reach to the end. */
export function windowsOf(n: number, windows: number, outShare: number, anchored: boolean): Window[] {
  const out = outDates(n, windows, outShare);
  const inside = out * (100 / outShare - 1);
  const cut = (k: number) => Math.floor(inside + k * out + 0.5);
  return Array.from({ length: windows }, (_, k) => ({
    fit: { from: anchored ? 0 : cut(k) - cut(0), to: cut(k) },
    judge: { from: cut(k), to: cut(k + 1) },
  }));
}

/** Why windows are too short, or null: each part needs two dates. */
export function windowsFault(windows: readonly Window[], n: number): string | null {
  const short = windows.findIndex(({ fit, judge }) => fit.to - fit.from < 2 || judge.to - judge.from < 2);
  if (short < 0) return null;
  const { fit, judge } = windows[short];
  return `${n} dates are too few for ${windows.length} windows: window ${short + 1} would be fitted on ${fit.to - fit.from} and judged on ${judge.to - judge.from}; two are needed in each`;
}
