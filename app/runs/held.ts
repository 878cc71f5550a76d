import { firstAtOrAfter, type Bars } from "#core/bars";

/** Buy and hold with all the capital, for drawing: capital · close ÷ the first open within the run. */
export function heldCurve(bars: Bars, times: Float64Array, capital: number): (number | null)[] {
  const first = firstAtOrAfter(bars.time, times[0]);
  const open = bars.open[first];
  if (!(open > 0)) return Array.from(times, () => null);
  let row = first;
  return Array.from(times, (time) => {
    while (row + 1 < bars.length && bars.time[row + 1] <= time) row++;
    return (capital * bars.close[row]) / open;
  });
}
