/**
 * Places of keys in rising (or falling) order: ties keep their order, NaN comes last either way. A radix sort in four passes
 * of 16 bits over the keys' bit patterns, since very many rows are sorted at a click.
 */
export function orderOf(keys: Float64Array, falling = false): Uint32Array {
  const n = keys.length;
  const words = new Uint32Array(new Float64Array(keys).buffer);
  for (let i = 0; i < n; i++) {
    const key = keys[i];
    if (Number.isNaN(key)) {
      words[2 * i] = words[2 * i + 1] = 0xffffffff;
      continue;
    }
    if (key === 0) words[2 * i] = words[2 * i + 1] = 0; // −0 is no less than 0
    // bits of what is below 0 rise as it falls, so they are turned round; the others come behind them
    const high = words[2 * i + 1];
    const flip = high >>> 31 === 1;
    const turn = flip !== falling ? 0xffffffff : 0;
    words[2 * i] ^= turn;
    words[2 * i + 1] = high ^ (flip ? 0xffffffff : 0x80000000) ^ (falling ? 0xffffffff : 0);
  }
  let from = Uint32Array.from({ length: n }, (_, i) => i);
  let to = new Uint32Array(n);
  const counts = new Uint32Array(65537);
  for (let pass = 0; pass < 4; pass++) {
    const word = pass >> 1;
    const shift = (pass & 1) * 16;
    counts.fill(0);
    for (let i = 0; i < n; i++) counts[((words[2 * i + word] >>> shift) & 0xffff) + 1]++;
    for (let b = 0; b < 65536; b++) counts[b + 1] += counts[b];
    for (let k = 0; k < n; k++) to[counts[(words[2 * from[k] + word] >>> shift) & 0xffff]++] = from[k];
    [from, to] = [to, from];
  }
  return from;
}
