export interface Point {
  x: number;
  y: number;
}

/**
 * A series for drawing: in each of `buckets` stretches the first, the lowest, the highest and the last value stay, so that
 * no extreme is lost whatever the width.
 */
export function thin(x: ArrayLike<number>, y: ArrayLike<number | null>, buckets = 320): Point[] {
  const n = x.length;
  const point = (i: number): Point => ({ x: x[i], y: y[i] ?? NaN });
  if (n <= buckets * 4) return Array.from({ length: n }, (_, i) => point(i));
  const out: Point[] = [];
  for (let b = 0; b < buckets; b++) {
    const from = Math.floor((b * n) / buckets);
    const to = Math.floor(((b + 1) * n) / buckets);
    let low = from;
    let high = from;
    for (let i = from; i < to; i++) {
      if ((y[i] ?? Infinity) < (y[low] ?? Infinity)) low = i;
      if ((y[i] ?? -Infinity) > (y[high] ?? -Infinity)) high = i;
    }
    for (const i of [...new Set([from, Math.min(low, high), Math.max(low, high), to - 1])].sort((a, b2) => a - b2)) out.push(point(i));
  }
  return out;
}
