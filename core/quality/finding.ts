import type { Bars, MarketCalendar, MarketSpec, Timeframe } from "#core/bars";

/** Kinds of faults that the report looks for. */
export type FindingKind = "gap" | "outside" | "zeroVolume" | "frozen" | "spike" | "step" | "shift" | "brokenTick";

/** Something in a source's bars that deserves a look. Times are bar starts in epoch milliseconds. */
export interface Finding {
  kind: FindingKind;
  /** the same for the same fault at every look */
  key: string;
  from: number;
  to: number;
  /** bars that it speaks of; missing ones for a gap */
  bars: number;
  /** how much it stands out, larger is worse; comparable within a kind only */
  weight: number;
  /** a sentence with the figures */
  text: string;
  /** bars that could be left out; empty where leaving out would mend nothing */
  times: number[];
}

export interface QualityContext {
  bars: Bars;
  timeframe: Timeframe;
  calendar: MarketCalendar;
  spec: MarketSpec;
  /** session date of each bar */
  dates: Float64Array;
}

/** One kind of check: what it asks, and how it looks. */
export interface QualityCheck {
  kind: FindingKind;
  title: string;
  question: string;
  find: (context: QualityContext) => Finding[];
}

export const keyOf = (kind: FindingKind, from: number, to: number): string => `${kind} ${from} ${to}`;

/** A time as a sentence shows it: the date, and the time of day in UTC where there is one. */
export function timeText(time: number): string {
  const text = new Date(time).toISOString();
  return text.slice(11, 16) === "00:00" ? text.slice(0, 10) : `${text.slice(0, 10)} ${text.slice(11, 16)}`;
}

/** Runs of neighbouring rows on which a condition holds, at least `least` long. */
export function runsOf(length: number, holds: (row: number) => boolean, least: number): [from: number, to: number][] {
  const runs: [number, number][] = [];
  let start = -1;
  for (let i = 0; i <= length; i++) {
    const yes = i < length && holds(i);
    if (yes && start < 0) start = i;
    if (!yes && start >= 0) {
      if (i - start >= least) runs.push([start, i - 1]);
      start = -1;
    }
  }
  return runs;
}

/** Times of rows from one to another, both included. */
export const timesBetween = (bars: Bars, from: number, to: number): number[] => Array.from(bars.time.subarray(from, to + 1));
