/** Prices of run settings with `roundToTick`; a millionth of a tick around a tick counts as on it. */

/** The next tick up (sign 1) or down (sign −1). */
export const toTick = (price: number, tick: number, sign: 1 | -1): number =>
  sign === 1 ? Math.ceil(price / tick - 1e-6) * tick : Math.floor(price / tick + 1e-6) * tick;

/** The nearest tick; halves go up for buys (1), down for sells (−1). */
export const nearestTick = (price: number, tick: number, direction: 1 | -1): number =>
  direction === 1 ? Math.floor(price / tick + 0.5 + 1e-6) * tick : Math.ceil(price / tick - 0.5 - 1e-6) * tick;
