import { correlation } from "#core/metrics";
import { percentRanks } from "./fits";

/** Blocks in time that the dates are cut into. */
export const BLOCKS = 16;

/** What the probability of overfitting needs of one trial: its returns summed up by blocks. */
export interface BlockSums {
  /** sums and sums of squares, smallest and largest return of each block */
  sum: Float64Array;
  squares: Float64Array;
  least: Float64Array;
  most: Float64Array;
  /** two hashes of all returns: equal for trials with the same ones */
  identity: string;
}

/** Sums the returns of a trial up; the first T mod 16 dates are left out. Null for fewer than two dates a block. */
export function blockSums(returns: Float64Array): BlockSums | null {
  const size = Math.floor(returns.length / BLOCKS);
  if (returns.length < 2 * BLOCKS) return null;
  const skip = returns.length - size * BLOCKS;
  const out: BlockSums = {
    sum: new Float64Array(BLOCKS),
    squares: new Float64Array(BLOCKS),
    least: new Float64Array(BLOCKS).fill(Infinity),
    most: new Float64Array(BLOCKS).fill(-Infinity),
    identity: identityOf(returns),
  };
  for (let b = 0; b < BLOCKS; b++)
    for (let t = skip + b * size; t < skip + (b + 1) * size; t++) {
      const x = returns[t];
      out.sum[b] += x;
      out.squares[b] += x * x;
      if (x < out.least[b]) out.least[b] = x;
      if (x > out.most[b]) out.most[b] = x;
    }
  return out;
}

function identityOf(returns: Float64Array): string {
  const words = new Uint32Array(returns.buffer, returns.byteOffset, returns.length * 2);
  let [a, b] = [0x811c9dc5, 0x9e3779b9];
  for (let i = 0; i < words.length; i++) {
    a = Math.imul(a ^ words[i], 0x01000193);
    b = Math.imul(b ^ words[i], 0x85ebca6b);
    b ^= b >>> 13;
  }
  return `${a >>> 0}.${b >>> 0}`;
}

/** One choice of blocks as in-sample: which trial was best there, and how it stood in the rest. */
export interface Choice {
  best: number;
  /** ln(ω ÷ (1 − ω)) of its rank out of sample ω */
  lambda: number;
}

export interface Overfitting {
  /** share of choices with λ < 0, plus half of those with λ = 0 */
  pbo: number;
  choices: Choice[];
}

/**
 * Probability of backtest overfitting by combinatorially symmetric cross-validation (Bailey, Borwein, López de Prado and Zhu
 * 2015). `trials`: in the order of their numbers, null for those without daily returns; `size`: dates a block. Of trials
 * with the same returns only the first counts. Null for fewer than two trials.
 */
export function overfitting(trials: readonly (BlockSums | null)[], size: number): Overfitting | null {
  const seen = new Set<string>();
  const rows: { number: number; sums: BlockSums }[] = [];
  trials.forEach((sums, number) => {
    if (sums === null || seen.has(sums.identity)) return;
    seen.add(sums.identity);
    rows.push({ number, sums });
  });
  if (rows.length < 2) return null;
  const n = size * (BLOCKS / 2);
  const [inside, outside] = [new Float64Array(rows.length), new Float64Array(rows.length)];
  const choices: Choice[] = [];
  for (const picked of halves()) {
    for (let k = 0; k < rows.length; k++) {
      inside[k] = sharpe(rows[k].sums, picked, n);
      outside[k] = sharpe(rows[k].sums, ~picked, n);
    }
    let best = 0;
    for (let k = 1; k < rows.length; k++) if (inside[k] > inside[best]) best = k;
    let [below, equal] = [0, 0];
    for (let k = 0; k < rows.length; k++)
      if (outside[k] < outside[best]) below++;
      else if (outside[k] === outside[best]) equal++;
    const omega = (below + (equal + 1) / 2) / (rows.length + 1);
    choices.push({ best: rows[best].number, lambda: Math.log(omega / (1 - omega)) });
  }
  const count = choices.reduce((sum, { lambda }) => sum + (lambda < 0 ? 1 : lambda === 0 ? 0.5 : 0), 0);
  return { pbo: count / choices.length, choices };
}

/** How trials stood in the first half of the time and in the second, by Sharpe ratio; percent ranks from 0 to 100. */
export interface HalfRanks {
  /** places in the list of trials */
  trials: number[];
  first: Float64Array;
  second: Float64Array;
  /** rank correlation of the two (Spearman 1904); null for fewer than three trials, or where all are alike */
  correlation: number | null;
}

/** Ranks of trials in both halves of the time. `trials`: null for those without daily returns; `size`: dates a block. */
export function halfRanks(trials: readonly (BlockSums | null)[], size: number): HalfRanks {
  const known = trials.flatMap((sums, i) => (sums === null ? [] : [i]));
  const n = size * (BLOCKS / 2);
  const early = (1 << (BLOCKS / 2)) - 1;
  const [first, second] = [early, ~early].map((picked) => percentRanks(Float64Array.from(known, (i) => sharpe(trials[i]!, picked, n))));
  const agree = known.length < 3 ? NaN : correlation(first, second);
  return { trials: known, first, second, correlation: Number.isNaN(agree) ? null : agree };
}

/** All choices of half the blocks, as bits. */
function halves(): number[] {
  const out: number[] = [];
  for (let bits = 0; bits < 1 << BLOCKS; bits++) {
    let count = 0;
    for (let rest = bits; rest !== 0; rest &= rest - 1) count++;
    if (count === BLOCKS / 2) out.push(bits);
  }
  return out;
}

/** Mean ÷ sample deviation over the picked blocks; 0 where all returns are equal. */
function sharpe({ sum, squares, least, most }: BlockSums, picked: number, n: number): number {
  let [total, square, low, high] = [0, 0, Infinity, -Infinity];
  for (let b = 0; b < BLOCKS; b++)
    if ((picked >>> b) & 1) {
      total += sum[b];
      square += squares[b];
      if (least[b] < low) low = least[b];
      if (most[b] > high) high = most[b];
    }
  if (low === high) return 0;
  const mean = total / n;
  return mean / Math.sqrt((square - total * mean) / (n - 1));
}
