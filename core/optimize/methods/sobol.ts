import { trialsIn } from "../space";
import type { Rounds, Task } from "./method";

const BITS = 30;

/** Primitive polynomials and first direction numbers of dimensions 2 to 16 (Joe and Kuo 2008, *Constructing Sobol sequences with better two-dimensional projections*). */
const DIRECTIONS: readonly (readonly [degree: number, polynomial: number, ...first: number[]])[] = [
  [1, 0, 1],
  [2, 1, 1, 3],
  [3, 1, 1, 3, 1],
  [3, 2, 1, 1, 1],
  [4, 1, 1, 1, 3, 3],
  [4, 4, 1, 3, 5, 13],
  [5, 2, 1, 1, 5, 5, 17],
  [5, 4, 1, 1, 5, 5, 5],
  [5, 7, 1, 1, 7, 11, 19],
  [5, 11, 1, 1, 5, 1, 1],
  [5, 13, 1, 1, 1, 3, 11],
  [5, 14, 1, 3, 5, 5, 31],
  [6, 1, 1, 3, 3, 9, 7, 49],
  [6, 13, 1, 1, 1, 15, 21, 21],
  [6, 16, 1, 3, 1, 13, 27, 49],
];
export const MOST_DIMENSIONS = DIRECTIONS.length + 1;

/** Direction numbers of one dimension, as fractions of 2^30. */
function directions(dimension: number): number[] {
  if (dimension === 0) return Array.from({ length: BITS }, (_, k) => 2 ** (BITS - 1 - k));
  const [degree, polynomial, ...first] = DIRECTIONS[dimension - 1];
  const v = first.map((m, k) => m * 2 ** (BITS - 1 - k));
  for (let k = degree; k < BITS; k++) {
    let next = v[k - degree] ^ (v[k - degree] >>> degree);
    for (let i = 1; i < degree; i++) if ((polynomial >>> (degree - 1 - i)) & 1) next ^= v[k - i];
    v.push(next);
  }
  return v;
}

/** Points of the Sobol sequence in Gray code order (Antonov and Saleev 1979), without the first, which is the corner; each from 0 to 1. */
export function* sobolPoints(dimensions: number): Generator<number[]> {
  const v = Array.from({ length: dimensions }, (_, d) => directions(d));
  const x = new Array<number>(dimensions).fill(0);
  for (let n = 0; n < 2 ** BITS - 1; n++) {
    let bit = 0;
    while ((n >>> bit) & 1) bit++;
    for (let d = 0; d < dimensions; d++) x[d] ^= v[d][bit];
    yield x.map((value) => value / 2 ** BITS);
  }
}

/**
 * A low-discrepancy draw: point by point, each coordinate's place on its axis is ⌊x · number of values⌋. No scrambling. A
 * combination that was drawn before or is no trial is passed over; where the sequence brings nothing new for long, the
 * combinations that are left follow in grid order.
 */
export function* sobol({ space }: Task, { trials }: { trials: number }): Rounds {
  const { axes } = space;
  const wanted = Math.min(trials, trialsIn(space));
  const allowed = space.allowed === null ? null : new Set(space.allowed);
  const drawn = new Set<number>();
  let tried = 0;
  for (const point of sobolPoints(axes.length)) {
    if (drawn.size === wanted || ++tried > 64 * wanted + 4096) break;
    let combination = 0;
    axes.forEach((axis, a) => (combination = combination * axis.values.length + Math.floor(point[a] * axis.values.length)));
    if (allowed === null || allowed.has(combination)) drawn.add(combination);
  }
  for (let k = 0; drawn.size < wanted; k++) if (allowed === null || allowed.has(k)) drawn.add(k);
  yield [...drawn];
}
