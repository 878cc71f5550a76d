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

/**
 * Dots for drawing: of those that would lie on top of each other (in one cell of a grid over all of them) the first of
 * each kind stays. What is few is left as it is.
 */
export function thinDots<Dot extends { x: number; y: number; bad: boolean }>(dots: readonly Dot[], columns = 90, rows = 60): Dot[] {
  if (dots.length <= 4000) return [...dots];
  let [left, right, low, high] = [Infinity, -Infinity, Infinity, -Infinity];
  for (const { x, y } of dots) {
    if (x < left) left = x;
    if (x > right) right = x;
    if (y < low) low = y;
    if (y > high) high = y;
  }
  const cell = (value: number, from: number, to: number, count: number) =>
    to > from ? Math.min(count - 1, Math.floor(((value - from) / (to - from)) * count)) : 0;
  const taken = new Set<number>();
  return dots.filter(({ x, y, bad }) => {
    const key = 2 * (cell(x, left, right, columns) * rows + cell(y, low, high, rows)) + (bad ? 1 : 0);
    if (taken.has(key)) return false;
    taken.add(key);
    return true;
  });
}
