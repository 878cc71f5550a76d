import { emptyBars, MarketCalendar, MINUTE, sliceBars, type Bars, type Session } from "#core/bars";
import { Random } from "#core/random";
import { onTick } from "./generator";

export interface MinuteCharacter {
  seed: number;
  tick: number;
  /** share of the day's move that its first hour makes, beyond what chance gives it: what runs on after the opening range */
  opening: number;
  /** share of minutes without a trade */
  missing: number;
}

/** How much of a day's trading falls on a place in it, from 0 (open) to 1 (close): busy at both ends, calm in between. */
export const busyness = (place: number): number => 0.55 + 1.8 * (2 * place - 1) ** 4 + 0.25 * (2 * place - 1) ** 2;

/**
 * One-minute bars that are true to daily ones: each day's path begins at its open, ends at its close and reaches just its
 * high and low. Minutes are busy at both ends of the session.
 */
export function makeMinutes(character: MinuteCharacter, daily: Bars, session: Session | null): Bars {
  const calendar = new MarketCalendar(session);
  const spans = Array.from(daily.time, (time) => calendar.span(Math.round(time / 86_400_000))!);
  const total = spans.reduce((sum, span) => sum + Math.round((span.close - span.open) / MINUTE), 0);
  const bars = emptyBars(total);
  const { tick } = character;
  let rows = 0;
  for (let day = 0; day < daily.length; day++) {
    // a day's minutes are its own: they come out the same whichever days are made with it
    const random = new Random(character.seed, spans[day].date);
    const { open: start } = spans[day];
    const minutes = Math.round((spans[day].close - start) / MINUTE);
    const [open, high, low, close] = [daily.open[day], daily.high[day], daily.low[day], daily.close[day]];
    const path = dayPath(random, minutes, open, high, low, close, character.opening, tick);
    let weights = 0;
    for (let k = 0; k < minutes; k++) weights += busyness(k / minutes);
    const perWeight = daily.volume[day] / weights;
    for (let k = 0; k < minutes; k++) {
      const edge = k === 0 || k === minutes - 1;
      const skipped = random.uniform() < character.missing;
      const [o, a, b, c] = [path[4 * k], path[4 * k + 1], path[4 * k + 2], path[4 * k + 3]];
      const extreme = Math.max(a, b) >= high || Math.min(a, b) <= low;
      const volume = Math.max(1, Math.round(perWeight * busyness(k / minutes) * (0.4 + 1.2 * random.uniform())));
      if (skipped && !edge && !extreme) continue;
      bars.time[rows] = start + k * MINUTE;
      bars.open[rows] = o;
      bars.high[rows] = Math.max(o, a, b, c);
      bars.low[rows] = Math.min(o, a, b, c);
      bars.close[rows] = c;
      bars.volume[rows] = volume;
      rows++;
    }
  }
  return sliceBars(bars, 0, rows);
}

/** A price reflected at both ends until it lies between them. */
function folded(price: number, low: number, high: number): number {
  const range = high - low;
  if (range === 0) return low;
  const place = (((price - low) % (2 * range)) + 2 * range) % (2 * range);
  return low + (place <= range ? place : 2 * range - place);
}

/**
 * Four prices a minute from open to close that stay within high and low and touch both: a random walk between fixed
 * points, which are the open, the place after an hour, both extremes and the close.
 */
function dayPath(
  random: Random,
  minutes: number,
  open: number,
  high: number,
  low: number,
  close: number,
  opening: number,
  tick: number,
): Float64Array {
  const steps = 4 * minutes;
  const path = new Float64Array(steps);
  const range = high - low;
  const points: [at: number, price: number][] = [[0, open]];
  const hour = Math.min(steps - 2, 4 * 60);
  if (opening > 0)
    points.push([hour, folded(open + (hour / steps + opening) * (close - open) + 0.06 * range * random.normal(), low, high)]);
  const early = opening > 0 ? hour + 1 : 1;
  const somewhere = () => Math.min(steps - 2, early + Math.floor(random.uniform() * (steps - 2 - early)));
  const [one, other] = [somewhere(), somewhere()].sort((x, y) => x - y);
  const rises = random.uniform() < (close >= open ? 0.75 : 0.25);
  if (high > Math.max(open, close)) points.push([rises ? other : one, high]);
  if (low < Math.min(open, close)) points.push([rises ? one : other, low]);
  points.push([steps - 1, close]);
  points.sort((x, y) => x[0] - y[0]);
  const wild = (0.45 * range) / Math.sqrt(steps);
  for (let p = 1; p < points.length; p++) {
    const [start, from] = points[p - 1];
    const [end, to] = points[p];
    const length = Math.max(1, end - start);
    let walk = 0;
    for (let k = start; k <= end; k++) {
      path[k] = walk;
      walk += wild * random.normal() * Math.sqrt(busyness(k / steps));
    }
    const drifted = path[end];
    for (let k = start; k <= end; k++) {
      const along = (k - start) / length;
      path[k] = onTick(folded(from + (to - from) * along + path[k] - drifted * along, low, high), tick);
    }
    path[start] = from;
    path[end] = to;
  }
  for (const [at, price] of points) path[at] = onTick(price, tick);
  return path;
}
