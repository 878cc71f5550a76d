import type { Bars } from "#core/bars";
import { ema, sma, sum } from "./averages";
import { atr, trueRange } from "./ranges";
import { inOrder } from "./ordered";
import { ageOfHighest, ageOfLowest } from "./ranks";
import { SMALL } from "./sliding";
import { highest, lowest } from "./windows";

const typicalOf = (bars: Bars): Float64Array => bars.close.map((c, i) => (bars.high[i] + bars.low[i] + c) / 3);
const finite = (x: number): number => (Number.isFinite(x) ? x : NaN);

/** Stochastic oscillator (Lane): .k smooths where the close lies in the range of n bars, 50 where that is 0; .d smooths .k. */
export function stochastic(bars: Bars, n: number, k: number, d: number) {
  const top = highest(bars.high, n);
  const bottom = lowest(bars.low, n);
  const raw = bars.close.map((c, i) => (top[i] === bottom[i] ? 50 : (100 * (c - bottom[i])) / (top[i] - bottom[i])));
  const smooth = sma(raw, k);
  return { k: smooth, d: sma(smooth, d) };
}

/** Williams' %R: −100·(highest high − close)/(highest high − lowest low). */
export function williams(bars: Bars, n: number): Float64Array {
  const top = highest(bars.high, n);
  const bottom = lowest(bars.low, n);
  return bars.close.map((c, i) => finite((-100 * (top[i] - c)) / (top[i] - bottom[i])));
}

/** Commodity channel index (Lambert 1980): (typical − sma)/(0.015 · mean absolute deviation). */
export function cci(bars: Bars, n: number): Float64Array {
  const typical = typicalOf(bars);
  const mean = sma(typical, n);
  const index = (i: number, away: number) => finite((typical[i] - mean[i]) / ((0.015 * away) / n));
  if (n > SMALL)
    return inOrder(typical, n, (window, i) => {
      // Σ|x − m| = (m·count below − sum below)·2, since the distances above the mean add up to those below
      return index(i, 2 * (mean[i] * window.below(mean[i]) - window.sumBelow(mean[i])));
    });
  return typical.map((_, i) => {
    if (mean[i] !== mean[i]) return NaN;
    let away = 0;
    for (let k = i - n + 1; k <= i; k++) away += Math.abs(typical[k] - mean[i]);
    return index(i, away);
  });
}

/** Money flow index (Quong and Soudack 1989) over n changes; 100 where nothing flowed out, 50 where nothing flowed. */
export function mfi(bars: Bars, n: number): Float64Array {
  const typical = typicalOf(bars);
  const flow = (sign: 1 | -1) =>
    typical.map((value, i) => (i === 0 ? NaN : sign * (value - typical[i - 1]) > 0 ? value * bars.volume[i] : 0));
  const [up, down] = [flow(1), flow(-1)];
  const [into, out] = [sum(up, n), sum(down, n)];
  // a running sum may keep a trace of flows that have left the window; whether anything flows is counted
  let [sinceIn, sinceOut] = [Infinity, Infinity];
  return into.map((gain, i) => {
    sinceIn = up[i] !== 0 ? 0 : sinceIn + 1;
    sinceOut = down[i] !== 0 ? 0 : sinceOut + 1;
    if (gain !== gain) return NaN;
    if (sinceOut >= n) return sinceIn < n ? 100 : 50;
    return sinceIn < n ? finite(100 - 100 / (1 + gain / out[i])) : 0;
  });
}

/** Average true range in percent of the close. */
export function natr(bars: Bars, n: number): Float64Array {
  const range = atr(bars, n);
  return range.map((value, i) => finite((100 * value) / bars.close[i]));
}

/** Keltner channel: ema of the typical price ± k average true ranges of m bars. */
export function keltner(bars: Bars, n: number, k: number, m: number) {
  const middle = ema(typicalOf(bars), n);
  const range = atr(bars, m);
  return { middle, upper: middle.map((x, i) => x + k * range[i]), lower: middle.map((x, i) => x - k * range[i]) };
}

/** Aroon (Chande 1995): 100·(n − bars since the highest high or lowest low of n + 1 bars)/n. */
export function aroon(bars: Bars, n: number) {
  const share = (since: number) => (100 * (n - since)) / n;
  return { up: ageOfHighest(bars.high, n + 1).map(share), down: ageOfLowest(bars.low, n + 1).map(share) };
}

/** Choppiness index (Dreiss): 100·log10(sum of true ranges/(highest high − lowest low))/log10(n). */
export function choppiness(bars: Bars, n: number): Float64Array {
  const total = sum(trueRange(bars), n);
  const top = highest(bars.high, n);
  const bottom = lowest(bars.low, n);
  return total.map((x, i) => finite((100 * Math.log10(x / (top[i] - bottom[i]))) / Math.log10(n)));
}

/** On-balance volume (Granville 1963): volume added where the close rose, taken away where it fell; 0 on the first bar. */
export function obv(bars: Bars): Float64Array {
  let total = 0;
  return bars.close.map((c, i) => (i === 0 ? 0 : (total += Math.sign(c - bars.close[i - 1]) * bars.volume[i])));
}
