import { emptyBars, type Bars } from "#core/bars";
import type { Random } from "#core/random";

const round = (price: number, tick: number): number => (tick > 0 ? Math.max(tick, Math.round(price / tick) * tick) : price);

/**
 * Bars whose four prices from `first` to `end` (excluded) each moved by a normal draw of so many `scale`s (prices; one a
 * row, NaN: the row stays), low and high then reaching as far as open and close. Times and volume stay.
 */
export function noisyBars(
  bars: Bars,
  { first, end }: { first: number; end: number },
  scale: ArrayLike<number>,
  random: Random,
  tick = 0,
): Bars {
  const out = emptyBars(bars.length);
  for (const column of ["time", "open", "high", "low", "close", "volume"] as const) out[column].set(bars[column]);
  for (let row = first; row < end; row++) {
    const by = scale[row];
    const moved = [bars.open[row], bars.high[row], bars.low[row], bars.close[row]].map((price) => {
      const draw = random.normal();
      return by > 0 ? round(Math.max(price * 0.01, price + draw * by), tick) : price;
    });
    out.open[row] = moved[0];
    out.close[row] = moved[3];
    out.high[row] = Math.max(...moved);
    out.low[row] = Math.min(...moved);
  }
  return out;
}

/**
 * A synthetic history by the stationary bootstrap of whole days (Politis and Romano 1994): blocks of days of geometric
 * length with a mean of `days`, drawn with replacement; a day takes the place of one with as many bars, so that the hours
 * of the day stay. What each bar did against the close before it stays. `dates`: session date of every row.
 */
export function drawnBars(
  bars: Bars,
  dates: ArrayLike<number>,
  { first, end }: { first: number; end: number },
  days: number,
  random: Random,
  tick = 0,
): Bars {
  const out = emptyBars(bars.length);
  for (const column of ["time", "open", "high", "low", "close", "volume"] as const) out[column].set(bars[column]);
  const starts: number[] = [];
  for (let row = first; row < end; row++) if (row === first || dates[row] !== dates[row - 1]) starts.push(row);
  const lengthOf = (day: number) => (day + 1 < starts.length ? starts[day + 1] : end) - starts[day];
  const alike = new Map<number, number[]>();
  starts.forEach((_, day) => alike.set(lengthOf(day), [...(alike.get(lengthOf(day)) ?? []), day]));
  const before = (row: number) => (row > 0 ? bars.close[row - 1] : bars.open[0]);
  let close = first < end ? before(first) : NaN;
  let source = -1;
  for (let day = 0; day < starts.length; day++) {
    const rows = lengthOf(day);
    const next = source + 1;
    if (source < 0 || random.uniform() < 1 / days || next >= starts.length || lengthOf(next) !== rows) {
      const choices = alike.get(rows)!;
      source = choices[Math.floor(random.uniform() * choices.length)];
    } else source = next;
    for (let k = 0; k < rows; k++) {
      const [row, from] = [starts[day] + k, starts[source] + k];
      const scale = close / before(from);
      for (const column of ["open", "high", "low", "close"] as const) out[column][row] = round(bars[column][from] * scale, tick);
      out.volume[row] = bars.volume[from];
      // rounding must not add up
      close = bars.close[from] * scale;
    }
  }
  return out;
}
