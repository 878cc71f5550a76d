import { DAY, emptyBars, mergeBars, parseDate, sliceBars, withoutTimes, type Bars } from "#core/bars";
import { Random } from "#core/random";
import { onTick } from "./generator";

/**
 * The second source, *Breakwater*: the same market seen by another house. A few closes differ by a tick, other days are
 * missing, volume is counted differently.
 */
export function secondSource(bars: Bars, tick: number, seed: number, missing: number): Bars {
  const out = emptyBars(bars.length);
  let rows = 0;
  let random = new Random(seed);
  let today = NaN;
  for (let i = 0; i < bars.length; i++) {
    const date = Math.floor(bars.time[i] / DAY);
    if (date !== today) random = new Random(seed, (today = date));
    const nudge = random.uniform() < 0.04 ? (random.uniform() < 0.5 ? -tick : tick) : 0;
    const absent = random.uniform() < missing && i > 0;
    const volume = Math.round(bars.volume[i] * (0.82 + 0.06 * random.uniform()));
    if (absent) continue;
    const close = onTick(bars.close[i] + nudge, tick);
    out.time[rows] = bars.time[i];
    out.open[rows] = bars.open[i];
    out.close[rows] = close;
    out.high[rows] = Math.max(bars.high[i], close);
    out.low[rows] = Math.min(bars.low[i], close);
    out.volume[rows] = volume;
    rows++;
  }
  return sliceBars(out, 0, rows);
}

/** A fault that is planted on purpose, for the quality report to find. */
export interface Flaw {
  /** kind of finding that must tell it */
  kind: "gap" | "outside" | "zeroVolume" | "frozen" | "spike" | "step" | "shift";
  source: "Lighthouse" | "Breakwater";
  timeframe: "1d" | "1m";
  /** a date that the finding must cover */
  on: string;
  about: string;
  apply: (bars: Bars) => Bars;
}

const day = (date: string): number => parseDate(date)! * DAY;
const rowsIn = (bars: Bars, from: string, to: string): number[] => {
  const rows: number[] = [];
  for (let i = 0; i < bars.length; i++) if (bars.time[i] >= day(from) && bars.time[i] < day(to) + DAY) rows.push(i);
  return rows;
};
const copy = (bars: Bars): Bars => ({
  length: bars.length,
  time: bars.time.slice(),
  open: bars.open.slice(),
  high: bars.high.slice(),
  low: bars.low.slice(),
  close: bars.close.slice(),
  volume: bars.volume.slice(),
});

/** Multiplies the prices of a stretch. */
const scaled = (from: string, to: string, factor: number) => (bars: Bars) => {
  const out = copy(bars);
  for (const i of rowsIn(bars, from, to))
    for (const name of ["open", "high", "low", "close"] as const) out[name][i] = Number((out[name][i] * factor).toFixed(6));
  return out;
};

/** The flaws of the Saltmarch sources, by symbol. */
export const FLAWS: Readonly<Record<string, readonly Flaw[]>> = {
  FERRY: [
    {
      kind: "step",
      source: "Breakwater",
      timeframe: "1d",
      on: "2009-03-10",
      about: "three weeks of March 2009 are quoted with a slipped decimal point, ten times too high",
      apply: scaled("2009-03-09", "2009-03-27", 10),
    },
  ],
  KELP: [
    {
      kind: "shift",
      source: "Breakwater",
      timeframe: "1m",
      on: "2024-07-03",
      about: "from June to August 2024 the clock runs an hour late",
      apply: (bars) => {
        const out = copy(bars);
        for (const i of rowsIn(bars, "2024-06-03", "2024-08-30")) out.time[i] += 3_600_000;
        return out;
      },
    },
  ],
  PEAT: [
    {
      kind: "frozen",
      source: "Lighthouse",
      timeframe: "1d",
      on: "2013-05-15",
      about: "eight days in May 2013 repeat the last close",
      apply: (bars) => {
        const out = copy(bars);
        const rows = rowsIn(bars, "2013-05-13", "2013-05-22");
        const still = bars.close[rows[0] - 1];
        for (const i of rows) for (const name of ["open", "high", "low", "close"] as const) out[name][i] = still;
        return out;
      },
    },
    {
      kind: "zeroVolume",
      source: "Breakwater",
      timeframe: "1d",
      on: "2016-09-07",
      about: "the volume of a week in September 2016 is 0",
      apply: (bars) => {
        const out = copy(bars);
        for (const i of rowsIn(bars, "2016-09-05", "2016-09-09")) out.volume[i] = 0;
        return out;
      },
    },
  ],
  WOOL: [
    {
      kind: "spike",
      source: "Breakwater",
      timeframe: "1d",
      on: "2018-02-14",
      about: "the close of 14 February 2018 is half as high again as it was",
      apply: (bars) => {
        const out = copy(bars);
        for (const i of rowsIn(bars, "2018-02-14", "2018-02-14")) {
          out.close[i] = Number((Math.round((out.close[i] * 1.5) / 0.5) * 0.5).toFixed(6));
          out.high[i] = Math.max(out.high[i], out.close[i]);
        }
        return out;
      },
    },
  ],
  GLASS: [
    {
      kind: "gap",
      source: "Breakwater",
      timeframe: "1d",
      on: "2011-08-10",
      about: "three weeks of August 2011 are missing",
      apply: (bars) => withoutTimes(bars, new Set(rowsIn(bars, "2011-08-01", "2011-08-19").map((i) => bars.time[i]))),
    },
  ],
  BARLEY: [
    {
      kind: "outside",
      source: "Breakwater",
      timeframe: "1d",
      on: "2015-10-10",
      about: "there is a bar on a Saturday, 10 October 2015",
      apply: (bars) => {
        const [friday] = rowsIn(bars, "2015-10-09", "2015-10-09");
        const extra = sliceBars(copy(bars), friday, friday + 1);
        extra.time[0] = day("2015-10-10");
        return mergeBars(bars, extra).bars;
      },
    },
  ],
  SALT40: [
    {
      kind: "step",
      source: "Breakwater",
      timeframe: "1d",
      on: "2008-06-02",
      about: "before June 2008 the index is not adjusted to its new base: twice as high",
      apply: scaled("2004-01-01", "2008-05-30", 2),
    },
  ],
  TIDE: [
    {
      kind: "gap",
      source: "Lighthouse",
      timeframe: "1m",
      on: "2024-11-05",
      about: "six hours of 5 November 2024 are missing",
      apply: (bars) => {
        const times = new Set<number>();
        for (let t = day("2024-11-05") + 8 * 3_600_000; t < day("2024-11-05") + 14 * 3_600_000; t += 60_000) times.add(t);
        return withoutTimes(bars, times);
      },
    },
  ],
};
