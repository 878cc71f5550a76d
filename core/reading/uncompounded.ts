import { closedInOrder, type Trade } from "#core/documents";

/**
 * The equity as if the account were brought back to its capital after every bar: capital · (1 + the sum of the bars' simple
 * returns). NaN from a point on whose equity before it is ≤ 0.
 */
export function uncompounded(equity: ArrayLike<number>, capital: number): Float64Array {
  const out = new Float64Array(equity.length);
  let sum = 0;
  let before = capital;
  for (let t = 0; t < out.length; t++) {
    sum += before > 0 ? equity[t] / before - 1 : NaN;
    out[t] = capital * (1 + sum);
    before = equity[t];
  }
  return out;
}

/** Capital plus the net of the closed trades by number, in the order of their exits (then ids): the curve of who counts trades and not days. */
export function byTradeNumber(trades: readonly Trade[], capital: number): Float64Array {
  let sum = capital;
  return Float64Array.from([capital, ...closedInOrder(trades).map((trade) => (sum += trade.net))]);
}
