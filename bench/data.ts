import { DAY, emptyBars, MINUTE, type Bars } from "#core/bars";

/** A seeded random walk of bars, for timing only. */
export function benchBars(length: number, step: number): Bars {
  const bars = emptyBars(length);
  let state = 12345;
  const random = () => (state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff) / 0x7fffffff;
  let price = 1000;
  const start = step === DAY ? Date.UTC(2004, 0, 1) : Date.UTC(2022, 0, 1);
  for (let t = 0; t < length; t++) {
    bars.time[t] = start + t * step;
    const open = price + (random() - 0.5) * 2;
    const close = open + (random() + random() + random() - 1.5) * 12;
    bars.open[t] = open;
    bars.close[t] = close;
    bars.high[t] = Math.max(open, close) + random() * 6;
    bars.low[t] = Math.min(open, close) - random() * 6;
    bars.volume[t] = 1000;
    price = Math.max(100, close);
  }
  return bars;
}

export const DAILY = { step: DAY, timeframe: "1d" };
export const MINUTES = { step: MINUTE, timeframe: "1m" };
