const DIGITS = [0, 11, 22] as const;
const BUCKETS = 2048;

/**
 * Places of keys in rising (or falling) order: ties keep their order, NaN comes last either way. A radix sort over the
 * upper halves of the keys' bit patterns, in three passes that move keys and places along together; what is alike in them is
 * then put in order by the lower halves. Very many rows are sorted at a click.
 */
export function orderOf(keys: Float64Array, falling = false): Uint32Array {
  const n = keys.length;
  const bits = new Uint32Array(keys.buffer, keys.byteOffset, 2 * n);
  const low = new Uint32Array(n);
  let high = new Uint32Array(n);
  let from = new Uint32Array(n);
  const counts = DIGITS.map(() => new Uint32Array(BUCKETS + 1));
  const [first, second, third] = counts;
  const turn = falling ? 0xffffffff : 0;
  for (let i = 0; i < n; i++) {
    const key = keys[i];
    let lower = bits[2 * i];
    let upper = bits[2 * i + 1];
    if (key !== key) lower = upper = 0xffffffff;
    else {
      if (key === 0) lower = upper = 0; // −0 is no less than 0
      // bits of what is below 0 rise as it falls, so they are turned round; the others come behind them
      const below = upper >>> 31 === 1;
      lower = (lower ^ (below ? 0xffffffff : 0) ^ turn) >>> 0;
      upper = (upper ^ (below ? 0xffffffff : 0x80000000) ^ turn) >>> 0;
    }
    from[i] = i;
    low[i] = lower;
    high[i] = upper;
    first[(upper & 2047) + 1]++;
    second[((upper >>> 11) & 2047) + 1]++;
    third[(upper >>> 22) + 1]++;
  }
  let to = new Uint32Array(n);
  let moved = new Uint32Array(n);
  for (let pass = 0; pass < DIGITS.length; pass++) {
    const count = counts[pass];
    let most = 0;
    for (let b = 1; b <= BUCKETS; b++) most = Math.max(most, count[b]);
    // a digit that all have alike puts nothing into another place
    if (most === n) continue;
    for (let b = 0; b < BUCKETS; b++) count[b + 1] += count[b];
    move(high, from, moved, to, count, DIGITS[pass]);
    [from, to] = [to, from];
    [high, moved] = [moved, high];
  }
  for (let start = 0; start < n;) {
    let end = start + 1;
    let rising = true;
    while (end < n && high[end] === high[start]) {
      if (low[from[end]] < low[from[end - 1]]) rising = false;
      end++;
    }
    if (!rising) from.subarray(start, end).sort((a, b) => low[a] - low[b] || a - b);
    start = end;
  }
  return from;
}

/** One pass: keys and places go where their digit's count says. */
function move(keys: Uint32Array, places: Uint32Array, keysTo: Uint32Array, placesTo: Uint32Array, count: Uint32Array, shift: number): void {
  for (let k = 0; k < keys.length; k++) {
    const key = keys[k];
    const place = count[(key >>> shift) & 2047]++;
    placesTo[place] = places[k];
    keysTo[place] = key;
  }
}
