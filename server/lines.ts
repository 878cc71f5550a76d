import { thin } from "#core/reading";

/** A series as it goes to a page: thinned for drawing, no extreme lost. */
export interface SentLine {
  name: string;
  time: number[];
  value: (number | null)[];
}

/** Thins a series for drawing; what is no number becomes null. */
export function lineOf(name: string, time: ArrayLike<number>, value: ArrayLike<number>): SentLine {
  const points = thin(time, value);
  return { name, time: points.map((point) => point.x), value: points.map((point) => (Number.isFinite(point.y) ? point.y : null)) };
}
