import { DAY, emptyBars, sliceBars, type Bars } from "#core/bars";
import { Random } from "#core/random";

/** How a made-up market moves. All rates are per day, of the logarithm of the price. */
export interface Character {
  seed: number;
  start: number;
  tick: number;
  /** mean size of a day's move */
  volatility: number;
  /** degrees of freedom of the shocks: fewer, fatter tails */
  tails: number;
  drift: number;
  /** mean length of a trend in days and its pull per day as a share of the volatility; 0 for none */
  trend: { days: number; pull: number };
  volume: number;
  /** share of session dates without a bar */
  missing: number;
  /** what else moves it on a date: an addition to the day's move, and a factor on its size */
  influence?: (date: number) => { move: number; heat: number };
}

/**
 * Daily bars of a made-up market: volatility that comes in clusters, fat tails, gaps between close and open, and, where
 * the character asks for it, stretches that lean one way. The same character gives the same bars, always.
 */
export function makeBars(character: Character, dates: readonly number[]): Bars {
  const random = new Random(character.seed);
  const bars = emptyBars(dates.length);
  const round = (price: number) => Math.max(character.tick, onTick(price, character.tick));
  let level = Math.log(character.start);
  let heat = 0;
  let lean = 0;
  let before = character.start;
  let rows = 0;
  for (const date of dates) {
    heat = 0.97 * heat + 0.14 * random.normal();
    const outer = character.influence?.(date) ?? { move: 0, heat: 1 };
    const size = character.volatility * Math.exp(heat - 0.16) * outer.heat;
    if (character.trend.days > 0 && random.uniform() < 1 / character.trend.days) lean = random.uniform() < 0.5 ? -1 : 1;
    const move = character.drift + outer.move + lean * character.trend.pull * character.volatility + size * random.heavy(character.tails);
    const absent = random.uniform() < character.missing;
    const gap = size * 0.35 * random.normal();
    // the day's path, in steps, from the open to the close; its extremes are the bar's
    const open = round(before * Math.exp(gap));
    level += move;
    const close = round(Math.exp(level));
    let high = Math.max(open, close);
    let low = Math.min(open, close);
    const steps = 12;
    let wander = 0;
    for (let k = 1; k < steps; k++) {
      wander += (size / Math.sqrt(steps)) * random.normal();
      const bridge = Math.log(open) + ((Math.log(close) - Math.log(open)) * k) / steps + wander * (1 - k / steps);
      high = Math.max(high, Math.exp(bridge));
      low = Math.min(low, Math.exp(bridge));
    }
    const volume = Math.round(
      character.volume * Math.exp(0.5 * heat + 0.3 * random.normal() + (12 * Math.abs(move)) / Math.max(0.01, character.volatility * 20)),
    );
    before = close;
    if (absent) continue;
    bars.time[rows] = date * DAY;
    bars.open[rows] = open;
    bars.close[rows] = close;
    bars.high[rows] = Math.max(high === Math.max(open, close) ? high : round(high), open, close);
    bars.low[rows] = Math.min(low === Math.min(open, close) ? low : round(low), open, close);
    bars.volume[rows] = volume;
    rows++;
  }
  return sliceBars(bars, 0, rows);
}

/** A price on the nearest multiple of the tick, free of the dust that the multiplication leaves. */
export const onTick = (price: number, tick: number): number => {
  const rounded = Number((Math.round(price / tick) * tick).toFixed(6));
  return rounded === 0 ? 0 : rounded;
};
