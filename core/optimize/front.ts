import { orderOf } from "#core/reading";

/**
 * Rows that none beats in both figures: no other is at least as good in both and better in one (the Pareto front). `more`:
 * whether more is better, of each figure; rows without one of them are left out. In the order of x, ties to the lower row.
 */
export function frontOf(x: Float64Array, y: Float64Array, more: readonly [x: boolean, y: boolean]): number[] {
  const sign = more[1] ? 1 : -1;
  const order = orderOf(x, more[0]);
  const front: number[] = [];
  let best = -Infinity;
  for (let from = 0; from < order.length && !Number.isNaN(x[order[from]]);) {
    let to = from;
    let top = -Infinity;
    for (; to < order.length && x[order[to]] === x[order[from]]; to++)
      top = Math.max(top, Number.isNaN(y[order[to]]) ? -Infinity : sign * y[order[to]]);
    // those that are alike in both are beaten by nobody
    if (top > best) {
      for (let k = from; k < to; k++) if (sign * y[order[k]] === top) front.push(order[k]);
      best = top;
    }
    from = to;
  }
  return front.sort((a, b) => x[a] - x[b] || a - b);
}

/**
 * Rows for drawing by two figures: of those that would lie on top of each other (in one cell of a grid over all) the first
 * stays. Rows without one of the figures are left out.
 */
export function thinRows(x: Float64Array, y: Float64Array, columns = 90, rows = 60): number[] {
  let [left, right, low, high] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let i = 0; i < x.length; i++) {
    if (Number.isNaN(x[i]) || Number.isNaN(y[i])) continue;
    left = Math.min(left, x[i]);
    right = Math.max(right, x[i]);
    low = Math.min(low, y[i]);
    high = Math.max(high, y[i]);
  }
  const cell = (value: number, from: number, to: number, count: number) =>
    to > from ? Math.min(count - 1, Math.floor(((value - from) / (to - from)) * count)) : 0;
  const taken = new Uint8Array(columns * rows);
  const out: number[] = [];
  for (let i = 0; i < x.length; i++) {
    if (Number.isNaN(x[i]) || Number.isNaN(y[i])) continue;
    const key = cell(x[i], left, right, columns) * rows + cell(y[i], low, high, rows);
    if (taken[key] === 1) continue;
    taken[key] = 1;
    out.push(i);
  }
  return out;
}
