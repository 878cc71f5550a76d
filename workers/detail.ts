import { BAR_COLUMNS, emptyBars, type Bars } from "#core/bars";

/** Bars taken together, a fixed number at a time: what a chart draws where single bars are thinner than a pixel. */
export interface DetailLevel {
  /** bars in each bucket */
  step: number;
  open: Float64Array;
  high: Float64Array;
  low: Float64Array;
  close: Float64Array;
}

const FACTOR = 4;

/** Levels of detail, each four times as coarse as the one before, until a few hundred buckets are left. */
export function detailLevels(bars: Bars): DetailLevel[] {
  const levels: DetailLevel[] = [];
  let finer: Omit<DetailLevel, "step"> = bars;
  let step = 1;
  let length = bars.length;
  while (length > 500) {
    step *= FACTOR;
    const next = Math.ceil(length / FACTOR);
    const level: DetailLevel = {
      step,
      open: shared(next),
      high: shared(next),
      low: shared(next),
      close: shared(next),
    };
    for (let k = 0; k < next; k++) {
      const from = k * FACTOR;
      const to = Math.min(length, from + FACTOR);
      let high = -Infinity;
      let low = Infinity;
      for (let i = from; i < to; i++) {
        if (finer.high[i] > high) high = finer.high[i];
        if (finer.low[i] < low) low = finer.low[i];
      }
      level.open[k] = finer.open[from];
      level.high[k] = high;
      level.low[k] = low;
      level.close[k] = finer.close[to - 1];
    }
    levels.push(level);
    finer = level;
    length = next;
  }
  return levels;
}

/** A column that other threads can read without copying, where the page is allowed to. */
function shared(length: number): Float64Array {
  return typeof SharedArrayBuffer === "undefined" ? new Float64Array(length) : new Float64Array(new SharedArrayBuffer(8 * length));
}

/** The same bars on memory that other threads can read. */
export function sharedBars(bars: Bars): Bars {
  const out = { ...emptyBars(0), length: bars.length } as { -readonly [K in keyof Bars]: Bars[K] };
  for (const name of BAR_COLUMNS) {
    out[name] = shared(bars.length);
    out[name].set(bars[name]);
  }
  return out;
}
