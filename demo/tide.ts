import { DAY, emptyBars, type Bars } from "#core/bars";
import { Random } from "#core/random";
import { onTick } from "./generator";

/**
 * Daily bars of tidal power: round the clock, around a slowly swinging level, sometimes below zero. Now and then demand
 * drives it up for two days running, and most of it falls back on the days after: the planted truth.
 */
export function makeTide(seed: number, tick: number, dates: readonly number[]): Bars {
  const random = new Random(seed);
  const bars = emptyBars(dates.length);
  let noise = 0;
  let spike = 0;
  let rising = 0;
  let push = 0;
  let before = 40;
  dates.forEach((date, row) => {
    const season = 31 + 9 * Math.cos((2 * Math.PI * (date - 20)) / 365.25) + 4 * Math.cos((2 * Math.PI * date) / 14.77);
    noise = 0.85 * noise + 4 * random.heavy(4);
    if (rising > 0) {
      spike += push;
      rising--;
    } else if (random.uniform() < 0.02) {
      push = 14 + 10 * random.uniform();
      spike += push;
      rising = 1;
    } else spike *= 0.35;
    const open = onTick(before + 1.2 * random.normal(), tick);
    const close = onTick(season + noise + spike, tick);
    const reach = 2.5 + 0.12 * Math.abs(close - open);
    bars.time[row] = date * DAY;
    bars.open[row] = open;
    bars.close[row] = close;
    bars.high[row] = onTick(Math.max(open, close) + reach * Math.abs(random.normal()), tick);
    bars.low[row] = onTick(Math.min(open, close) - reach * Math.abs(random.normal()), tick);
    bars.volume[row] = Math.round(5200 * Math.exp(0.25 * random.normal() + 0.01 * spike));
    before = close;
  });
  return bars;
}
