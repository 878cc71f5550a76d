import { isIntraday } from "#core/bars";
import { percentile } from "#core/metrics";
import { keyOf, runsOf, timesBetween, timeText, type Finding, type FindingKind, type QualityCheck, type QualityContext } from "./finding";

function stretch(context: QualityContext, kind: FindingKind, [from, to]: [number, number], say: (bars: number) => string): Finding {
  const { bars } = context;
  const count = to - from + 1;
  return {
    kind,
    key: keyOf(kind, bars.time[from], bars.time[to]),
    from: bars.time[from],
    to: bars.time[to],
    bars: count,
    weight: count,
    text: `${say(count)} from ${timeText(bars.time[from])} to ${timeText(bars.time[to])}`,
    times: timesBetween(bars, from, to),
  };
}

/** Volume that is 0 for a while, in a source that has volume otherwise. */
export const zeroVolume: QualityCheck = {
  kind: "zeroVolume",
  title: "No volume",
  question: "Did nothing trade for a while, by the source?",
  find: (context) => {
    const { volume, length } = context.bars;
    let with0 = 0;
    for (let i = 0; i < length; i++) if (volume[i] === 0) with0++;
    if (with0 > length / 2) return [];
    const least = isIntraday(context.timeframe) ? 30 : 2;
    return runsOf(length, (i) => volume[i] === 0, least).map((run) =>
      stretch(context, "zeroVolume", run, (n) => `${n} bars have no volume`),
    );
  },
};

/** A price that doesn't move at all, bar after bar. */
export const frozen: QualityCheck = {
  kind: "frozen",
  title: "Frozen prices",
  question: "Does the price stand still for longer than a market does?",
  find: (context) => {
    const { open, high, low, close, length } = context.bars;
    const still = (i: number) => high[i] === low[i] && open[i] === close[i] && (i === 0 || close[i] === close[i - 1]);
    const runs = runsOf(length, still, 4);
    const usual =
      runs.length === 0
        ? 0
        : percentile(
            runs.map(([from, to]) => to - from + 1),
            99,
          );
    // a market whose ticks are coarse stands still often: then only what goes far beyond its own habit counts
    const least = isIntraday(context.timeframe) ? Math.max(45, 3 * usual) : runs.length > 20 ? Math.max(6, 2 * usual) : 6;
    return runs
      .filter(([from, to]) => to - from + 1 >= least)
      .map((run) => stretch(context, "frozen", run, (n) => `the price stands still for ${n} bars`));
  },
};

/** Bars at times at which the market is closed. */
export const outside: QualityCheck = {
  kind: "outside",
  title: "Outside the session",
  question: "Are there bars at times when the market is closed?",
  find: (context) => {
    const { bars, timeframe, calendar, dates } = context;
    if (calendar.session === null || (timeframe.unit !== "day" && !isIntraday(timeframe))) return [];
    const closed = isIntraday(timeframe)
      ? (i: number) => calendar.sessionAt(bars.time[i]) === null
      : (i: number) => !calendar.isSessionDate(dates[i]);
    return runsOf(bars.length, closed, 1).map((run) =>
      stretch(context, "outside", run, (n) => `${n} ${n === 1 ? "bar lies" : "bars lie"} outside the session`),
    );
  },
};

/** Prices that are no multiple of the tick: another number of decimals than the market has. */
export const brokenTick: QualityCheck = {
  kind: "brokenTick",
  title: "Off the tick",
  question: "Are prices multiples of the market's tick?",
  find: (context) => {
    const { bars, spec } = context;
    const off = (x: number) => Math.abs(x / spec.tick - Math.round(x / spec.tick)) > 1e-6 * Math.max(1, Math.abs(x / spec.tick));
    const wrong = (i: number) => off(bars.open[i]) || off(bars.high[i]) || off(bars.low[i]) || off(bars.close[i]);
    let first = -1;
    let last = -1;
    let count = 0;
    for (let i = 0; i < bars.length; i++)
      if (wrong(i)) {
        if (first < 0) first = i;
        last = i;
        count++;
      }
    if (count === 0) return [];
    return [
      {
        kind: "brokenTick",
        key: keyOf("brokenTick", bars.time[first], bars.time[last]),
        from: bars.time[first],
        to: bars.time[last],
        bars: count,
        weight: count / bars.length,
        text: `${count} of ${bars.length} bars have a price that is no multiple of the tick ${spec.tick}, the first on ${timeText(bars.time[first])}: check the tick, or the source's decimals`,
        times: [],
      },
    ];
  },
};
