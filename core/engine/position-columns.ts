import type { Column, PositionName } from "#core/rules";
import type { Simulation } from "./simulation";
import { AT_CLOSE, MAX_BARS, TIME, WEEKDAY } from "./trade-log";

/** What a leg's rules saw of its position at every close of a finished run: the oldest open entry's values. */
export function positionColumns(simulation: Simulation, legIndex: number): Record<PositionName, Column> {
  const { log, legs } = simulation;
  const { bars } = legs[legIndex].market;
  const { length, close } = bars;
  const number = () => new Float64Array(length).fill(NaN);
  const [barsHeld, entryPrice, openProfit, openR] = [number(), number(), number(), number()];
  const [inLong, inShort] = [new Uint8Array(length), new Uint8Array(length)];
  for (let trade = 0; trade < log.count; trade++) {
    if (log.leg[trade] !== legIndex) continue;
    const side = log.side[trade];
    const first = log.entryRow[trade] + (log.how[trade] === AT_CLOSE ? 1 : 0);
    // what leaves at a close by the count of bars or by the clock is gone before the rules are looked at, all else after
    const reason = log.reason[trade];
    const gone = log.exitAtClose[trade] === 0 || reason === MAX_BARS || reason === TIME || reason === WEEKDAY;
    const end = reason === 0 ? length : log.exitRow[trade] + (gone ? 0 : 1);
    for (let row = first; row < end; row++) {
      if (inLong[row] === 1 || inShort[row] === 1) continue;
      (side === 1 ? inLong : inShort)[row] = 1;
      barsHeld[row] = row - log.entryRow[trade];
      entryPrice[row] = log.entryPrice[trade];
      openProfit[row] = side * (close[row] - log.entryPrice[trade]);
      const inR = openProfit[row] / log.stopDistance[trade];
      if (Number.isFinite(inR)) openR[row] = inR;
    }
  }
  return { inLong, inShort, barsHeld, entryPrice, openProfit, openR };
}
