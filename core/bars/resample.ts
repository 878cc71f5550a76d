import { emptyBars, sliceBars, type Bars } from "./bars";
import type { MarketCalendar } from "./calendar";
import { type SessionSpan } from "./calendar";
import { mondayOf, monthOf } from "./dates";
import { compareTimeframes, DAY, isIntraday, MINUTE, type Timeframe } from "./timeframe";

export interface Resampled {
  bars: Bars;
  /** intraday bars that lay outside every session and were left out */
  outside: number;
}

/** Why bars of `from` can't be resampled to `to`, in a sentence, or null where they can. */
export function resampleFault(from: Timeframe, to: Timeframe): string | null {
  if (compareTimeframes(from, to) > 0) return "bars can only be resampled to the same or a coarser timeframe";
  if (isIntraday(from) && isIntraday(to) && to.count % from.count !== 0)
    return `${to.count} minutes is not a multiple of ${from.count} minutes`;
  if (to.unit === "month" && from.unit === "week") return "monthly bars come from daily or finer ones";
  return null;
}

/**
 * Bars of a coarser timeframe: open = first, high = max, low = min, close = last, volume = sum. Intraday buckets start at
 * the session's open; intraday bars outside the session are left out and counted, also where the timeframe stays.
 * Throws where `resampleFault` has something to say.
 */
export function resample(bars: Bars, from: Timeframe, to: Timeframe, calendar: MarketCalendar): Resampled {
  const fault = resampleFault(from, to);
  if (fault !== null) throw new Error(fault);
  if (compareTimeframes(from, to) === 0 && standsAlready(bars, to, calendar)) return { bars, outside: 0 };
  const out = emptyBars(bars.length);
  let rows = 0;
  let outside = 0;
  let bucket = NaN;
  let span: SessionSpan | null = null;
  for (let i = 0; i < bars.length; i++) {
    const time = bars.time[i];
    let date: number;
    let label: number;
    if (isIntraday(from)) {
      if (span === null || time < span.open || time >= span.close) span = calendar.sessionAt(time);
      if (span === null) {
        outside++;
        continue;
      }
      date = span.date;
    } else date = Math.floor(time / DAY);
    let key: number;
    if (isIntraday(to)) {
      const size = to.count * MINUTE;
      label = span!.open + Math.floor((time - span!.open) / size) * size;
      key = label;
    } else {
      label = date * DAY;
      key = to.unit === "day" ? date : to.unit === "week" ? mondayOf(date) : monthOf(date);
    }
    if (key !== bucket) {
      bucket = key;
      out.time[rows] = label;
      out.open[rows] = bars.open[i];
      out.high[rows] = bars.high[i];
      out.low[rows] = bars.low[i];
      out.close[rows] = bars.close[i];
      out.volume[rows] = bars.volume[i];
      rows++;
    } else {
      const row = rows - 1;
      if (bars.high[i] > out.high[row]) out.high[row] = bars.high[i];
      if (bars.low[i] < out.low[row]) out.low[row] = bars.low[i];
      out.close[row] = bars.close[i];
      out.volume[row] += bars.volume[i];
    }
  }
  return { bars: sliceBars(out, 0, rows), outside };
}

/** Whether bars of this timeframe need no relabelling: their times lie on the buckets already. Weekly, monthly and session bars are looked at one by one. */
function standsAlready(bars: Bars, timeframe: Timeframe, calendar: MarketCalendar): boolean {
  if (timeframe.unit !== "day" && (timeframe.unit !== "minute" || calendar.session !== null)) return false;
  const size = timeframe.unit === "day" ? DAY : timeframe.count * MINUTE;
  if (DAY % size !== 0) return false;
  const { time } = bars;
  for (let i = 0; i < time.length; i++) {
    const place = time[i] / size;
    if (Math.floor(place) !== place) return false;
  }
  return true;
}
