import { BAR_COLUMNS, emptyBars, sliceBars, type Bars } from "./bars";

/** A bar that stands differently in two sets: its time, and both figures. */
export interface ChangedBar {
  time: number;
  before: BarFigures;
  after: BarFigures;
}

export interface BarFigures {
  open: number;
  high: number;
  low: number;
  close: number;
  volume: number;
}

/** What came of merging newer bars into older ones. */
export interface Merge {
  bars: Bars;
  added: number;
  changed: number;
  same: number;
  /** the first changed bars, at most as many as asked for */
  changes: ChangedBar[];
}

export const barAt = (bars: Bars, row: number): BarFigures => ({
  open: bars.open[row],
  high: bars.high[row],
  low: bars.low[row],
  close: bars.close[row],
  volume: bars.volume[row],
});

/** Whether two rows hold the same figures. */
const equalRows = (a: Bars, i: number, b: Bars, j: number): boolean =>
  a.open[i] === b.open[j] && a.high[i] === b.high[j] && a.low[i] === b.low[j] && a.close[i] === b.close[j] && a.volume[i] === b.volume[j];

/**
 * Merges by time: new bars are added; where both have a bar of one time the newer one counts if `take`, else the older one
 * stays. Linear in the bars.
 */
export function mergeBars(before: Bars, after: Bars, take = true, mostChanges = 200): Merge {
  const out = emptyBars(before.length + after.length);
  const changes: ChangedBar[] = [];
  let rows = 0;
  let added = 0;
  let changed = 0;
  let same = 0;
  const put = (from: Bars, row: number) => {
    for (const name of BAR_COLUMNS) out[name][rows] = from[name][row];
    rows++;
  };
  let i = 0;
  let j = 0;
  while (i < before.length || j < after.length) {
    if (j === after.length || (i < before.length && before.time[i] < after.time[j])) put(before, i++);
    else if (i === before.length || after.time[j] < before.time[i]) {
      put(after, j++);
      added++;
    } else {
      const equal = equalRows(before, i, after, j);
      if (equal) same++;
      else {
        changed++;
        if (changes.length < mostChanges) changes.push({ time: before.time[i], before: barAt(before, i), after: barAt(after, j) });
      }
      put(equal || !take ? before : after, equal || !take ? i : j);
      i++;
      j++;
    }
  }
  return { bars: sliceBars(out, 0, rows), added, changed, same, changes };
}

/** The bars without those that begin at one of the times; both lists rise. */
export function withoutTimes(bars: Bars, times: ReadonlySet<number>): Bars {
  if (times.size === 0) return bars;
  const out = emptyBars(bars.length);
  let rows = 0;
  for (let i = 0; i < bars.length; i++) {
    if (times.has(bars.time[i])) continue;
    for (const name of BAR_COLUMNS) out[name][rows] = bars[name][i];
    rows++;
  }
  return sliceBars(out, 0, rows);
}
