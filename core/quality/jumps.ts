import { keyOf, timeText, timesBetween, type Finding, type QualityCheck } from "./finding";

/** Bars on each side that make up the local spread. */
const AROUND = 30;
/** A return this many robust deviations from the local median is a spike. */
const SPIKE = 14;

function medianOf(values: Float64Array): number {
  values.sort();
  const half = values.length >> 1;
  return values.length % 2 === 1 ? values[half] : (values[half - 1] + values[half]) / 2;
}

/**
 * Robust z-score of every value against its neighbours: distance from their median ÷ 1.4826 · their median absolute
 * deviation (Iglewicz and Hoaglin 1993, *How to Detect and Handle Outliers*). Looked at only where a value is large at all,
 * since the windows are costly.
 */
export function robustScores(values: Float64Array, around = AROUND, least = 10): Map<number, number> {
  const sizes = Float64Array.from(values, Math.abs);
  const typical = medianOf(sizes.filter((x) => x > 0));
  const scores = new Map<number, number>();
  if (Number.isNaN(typical)) return scores;
  for (let i = 0; i < values.length; i++) {
    if (!(Math.abs(values[i]) > least * typical)) continue;
    const window: number[] = [];
    for (let k = Math.max(0, i - around); k <= Math.min(values.length - 1, i + around); k++) if (k !== i) window.push(values[k]);
    const centre = medianOf(Float64Array.from(window));
    const spread = 1.4826 * medianOf(Float64Array.from(window, (x) => Math.abs(x - centre)));
    scores.set(i, (values[i] - centre) / Math.max(spread, typical / 4));
  }
  return scores;
}

/** Ratios that a split, a reverse split or a slipped decimal point leaves behind. */
const RATIOS = [2, 3, 4, 5, 10, 20, 100, 1000, 1.5].flatMap((ratio) => [ratio, 1 / ratio]);

const changes = (close: Float64Array): Float64Array =>
  Float64Array.from({ length: Math.max(0, close.length - 1) }, (_, i) => close[i + 1] - close[i]);

/** A bar that jumps away from its neighbours and back. */
export const spikes: QualityCheck = {
  kind: "spike",
  title: "Spikes",
  question: "Does a price jump away and straight back, as a wrong print does?",
  find: ({ bars, spec }) => {
    const moves = changes(bars.close);
    const scores = robustScores(moves);
    const found: Finding[] = [];
    const seen = new Set<number>();
    for (const [i, away] of scores) {
      const back = moves[i + 1] ?? 0;
      const returns = Math.sign(back) === -Math.sign(moves[i]) && Math.abs(back) > 0.6 * Math.abs(moves[i]);
      if (Math.abs(away) < SPIKE || !returns || seen.has(i)) continue;
      seen.add(i + 1);
      const row = i + 1;
      found.push({
        kind: "spike",
        key: keyOf("spike", bars.time[row], bars.time[row]),
        from: bars.time[row],
        to: bars.time[row],
        bars: 1,
        weight: Math.abs(away),
        text: `the close of ${timeText(bars.time[row])} stands ${Math.abs(away).toFixed(0)} local deviations away (${bars.close[row - 1]} → ${bars.close[row]} → ${bars.close[row + 1]})`,
        times: [bars.time[row]],
      });
    }
    // a wick alone: the close is where it should be, high or low are far out
    const wicks = Float64Array.from(bars.high, (high, i) => high - bars.low[i]);
    for (const [i, score] of robustScores(wicks)) {
      if (score < 2 * SPIKE || seen.has(i) || seen.has(i + 1) || Math.abs(bars.close[i] - bars.open[i]) > 0.5 * wicks[i]) continue;
      if (wicks[i] < 20 * spec.tick) continue;
      found.push({
        kind: "spike",
        key: keyOf("spike", bars.time[i], bars.time[i]),
        from: bars.time[i],
        to: bars.time[i],
        bars: 1,
        weight: score,
        text: `high and low of ${timeText(bars.time[i])} lie ${wicks[i].toPrecision(4)} apart, ${score.toFixed(0)} local deviations more than around it`,
        times: [bars.time[i]],
      });
    }
    return found.sort((a, b) => a.from - b.from);
  },
};

/** A level that changes by a split's ratio, or a decimal point's, from one bar to the next and stays there. */
export const steps: QualityCheck = {
  kind: "step",
  title: "Steps",
  question: "Does the price level change by a round factor, as an unadjusted split or a slipped decimal point makes it?",
  find: ({ bars }) => {
    const { close, open } = bars;
    const found: Finding[] = [];
    const level = (from: number, to: number): number => {
      const part = close.subarray(Math.max(0, from), Math.min(close.length, to));
      return part.length === 0 ? NaN : medianOf(Float64Array.from(part));
    };
    for (let i = 1; i < close.length; i++) {
      const jump = open[i] / close[i - 1];
      if (!(jump > 0) || (jump > 0.72 && jump < 1.4)) continue;
      const before = level(i - 5, i);
      const after = level(i, i + 5);
      const ratio = RATIOS.find(
        (candidate) => Math.abs(Math.log(after / before / candidate)) < 0.12 && Math.abs(Math.log(jump / candidate)) < 0.12,
      );
      if (ratio === undefined) continue;
      found.push({
        kind: "step",
        key: keyOf("step", bars.time[i], bars.time[i]),
        from: bars.time[i],
        to: bars.time[i],
        bars: 1,
        weight: Math.abs(Math.log(ratio)),
        text: `from ${timeText(bars.time[i])} on, prices are ${ratio >= 1 ? `${ratio} times` : `1/${Math.round((1 / ratio) * 100) / 100} of`} what they were (${close[i - 1]} → ${open[i]})`,
        times: [],
      });
    }
    return pairSteps(found, bars);
  },
};

/** A step and its way back enclose a stretch of wrong prices, which could be left out. */
function pairSteps(found: Finding[], bars: Parameters<typeof timesBetween>[0]): Finding[] {
  for (let k = 0; k + 1 < found.length; k++) {
    const [a, b] = [found[k], found[k + 1]];
    const from = bars.time.indexOf(a.from);
    const to = bars.time.indexOf(b.from) - 1;
    if (Math.abs(a.weight - b.weight) > 1e-9 || to - from > 260 || a.times.length > 0) continue;
    const ratio = bars.open[from] / bars.close[from - 1];
    const back = bars.open[to + 1] / bars.close[to];
    if (ratio > 1 === back > 1) continue;
    a.times = timesBetween(bars, from, to);
    a.to = bars.time[to];
    a.bars = a.times.length;
    a.key = keyOf("step", a.from, a.to);
    a.text += `; the ${a.bars} bars until ${timeText(a.to)} stand apart from those around them`;
  }
  return found;
}
