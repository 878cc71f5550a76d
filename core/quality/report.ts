import { isIntraday, MarketCalendar, MINUTE, sessionDates, type Bars, type MarketSpec, type Timeframe } from "#core/bars";
import type { Finding, QualityCheck, QualityContext } from "./finding";
import { gaps } from "./gaps";
import { spikes, steps } from "./jumps";
import { shifts } from "./shifts";
import { brokenTick, frozen, outside, zeroVolume } from "./stretches";

/** Changes whenever the checks do, so that kept reports are not mistaken for new ones. */
export const QUALITY_VERSION = 1;

/** Every check, in the order in which the report shows them. */
export const QUALITY_CHECKS: readonly QualityCheck[] = [gaps, shifts, steps, spikes, frozen, zeroVolume, outside, brokenTick];

/** How much of each month there is: expected and present bars by the calendar. */
export interface Coverage {
  /** session dates */
  dates: number[];
  /** share of the date's bars that are there, 0 to 1 */
  shares: number[];
}

export interface QualityReport {
  findings: Finding[];
  coverage: Coverage;
  expected: number;
  present: number;
}

/** Findings that are listed of one kind; beyond it a source is broken as a whole. */
const MOST_OF_A_KIND = 2000;

/** Share of each session date's bars that are there. */
export function coverageOf({ bars, timeframe, calendar, dates }: QualityContext): Coverage & { expected: number; present: number } {
  const counts = new Map<number, number>();
  const intraday = isIntraday(timeframe);
  for (let i = 0; i < bars.length; i++) {
    if (intraday && calendar.session !== null && calendar.sessionAt(bars.time[i]) === null) continue;
    counts.set(dates[i], (counts.get(dates[i]) ?? 0) + 1);
  }
  const out: Coverage & { expected: number; present: number } = { dates: [], shares: [], expected: 0, present: 0 };
  if (bars.length === 0) return out;
  for (let day = dates[0]; day <= dates[dates.length - 1]; day++) {
    const span = calendar.span(day);
    if (span === null) continue;
    const wanted = intraday ? Math.ceil((span.close - span.open) / (timeframe.count * MINUTE)) : 1;
    const have = Math.min(wanted, counts.get(day) ?? 0);
    out.dates.push(day);
    out.shares.push(have / wanted);
    out.expected += wanted;
    out.present += have;
  }
  return out;
}

/** Looks at a source's bars with every check. Weekly and monthly bars have no calendar to be checked against. */
export function qualityReport(bars: Bars, timeframe: Timeframe, spec: MarketSpec): QualityReport {
  const calendar = new MarketCalendar(spec.session);
  const context: QualityContext = { bars, timeframe, calendar, spec, dates: sessionDates(bars.time, timeframe, calendar) };
  const findings = QUALITY_CHECKS.flatMap((check) => check.find(context).slice(0, MOST_OF_A_KIND));
  const fine = timeframe.unit === "day" || isIntraday(timeframe);
  const { expected, present, ...coverage } = fine ? coverageOf(context) : { dates: [], shares: [], expected: 0, present: 0 };
  return { findings, coverage, expected, present };
}
