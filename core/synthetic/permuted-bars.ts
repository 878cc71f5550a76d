import { emptyBars, type Bars } from "#core/bars";
import type { Random } from "#core/random";

/** Which bars change places: from one row (included) to another (excluded), in blocks that begin where `starts` says. */
export interface Blocks {
  /** first row of each block, ascending; the first one is the first row that moves */
  starts: ArrayLike<number>;
  end: number;
}

/** Blocks of so many session dates each, over the rows from `first` to `end`. `dates`: the session date of every row. */
export function dateBlocks(dates: ArrayLike<number>, first: number, end: number, days: number): Blocks {
  const starts: number[] = [];
  let [count, last] = [0, NaN];
  for (let row = first; row < end; row++) {
    if (dates[row] === last) continue;
    last = dates[row];
    if (count % days === 0) starts.push(row);
    count++;
  }
  return { starts, end };
}

/**
 * Bars whose blocks stand in another order: what each bar did against the close before it stays, so that the stretch begins
 * and ends at the same prices and holds the same days, while whatever ran through several blocks is gone. Times and
 * everything outside stay as they are. `tick`: prices are rounded to it; 0: not at all.
 */
export function permutedBars(bars: Bars, { starts, end }: Blocks, random: Random, tick = 0): Bars {
  const out = emptyBars(bars.length);
  for (const column of ["time", "open", "high", "low", "close", "volume"] as const) out[column].set(bars[column]);
  const order = Array.from({ length: starts.length }, (_, k) => k);
  for (let k = order.length - 1; k > 0; k--) {
    const other = Math.floor(random.uniform() * (k + 1));
    [order[k], order[other]] = [order[other], order[k]];
  }
  const round = (price: number) => (tick > 0 ? Math.max(tick, Math.round(price / tick) * tick) : price);
  let row = starts.length === 0 ? end : starts[0];
  let before = row > 0 ? bars.close[row - 1] : bars.open[0];
  for (const block of order) {
    const to = block + 1 < starts.length ? starts[block + 1] : end;
    for (let from = starts[block]; from < to; from++, row++) {
      const scale = before / (from > 0 ? bars.close[from - 1] : bars.open[0]);
      for (const column of ["open", "high", "low", "close"] as const) out[column][row] = round(bars[column][from] * scale);
      out.volume[row] = bars.volume[from];
      // rounding must not add up
      before = bars.close[from] * scale;
    }
  }
  return out;
}
