/**
 * A seeded generator: xoshiro128** (Blackman and Vigna 2018, *Scrambled Linear Pseudorandom Number Generators*), seeded by
 * splitmix32 from a seed and a stream number, so that every trial or simulation can have an independent stream.
 */
export class Random {
  private a: number;
  private b: number;
  private c: number;
  private d: number;
  private spare = NaN;

  constructor(seed: number, stream = 0) {
    let state = (seed ^ Math.imul(stream + 1, 0x9e3779b9)) | 0;
    const split = () => {
      state = (state + 0x9e3779b9) | 0;
      let z = state ^ (state >>> 16);
      z = Math.imul(z, 0x21f0aaad);
      z ^= z >>> 15;
      z = Math.imul(z, 0x735a2d97);
      return z ^ (z >>> 15);
    };
    this.a = split();
    this.b = split();
    this.c = split();
    this.d = split();
  }

  /** The next 32 bits as a whole number from 0 to 2³² − 1. */
  bits(): number {
    const rotated = Math.imul(this.b, 5);
    const result = Math.imul((rotated << 7) | (rotated >>> 25), 9) >>> 0;
    const t = this.b << 9;
    this.c ^= this.a;
    this.d ^= this.b;
    this.b ^= this.c;
    this.a ^= this.d;
    this.c ^= t;
    this.d = (this.d << 11) | (this.d >>> 21);
    return result;
  }

  /** Uniform from 0 (included) to 1 (excluded), with 53 bits. */
  uniform(): number {
    return ((this.bits() >>> 5) * 67108864 + (this.bits() >>> 6)) / 9007199254740992;
  }

  /** Standard normal, by Marsaglia's polar method (1964). */
  normal(): number {
    if (!Number.isNaN(this.spare)) {
      const spare = this.spare;
      this.spare = NaN;
      return spare;
    }
    for (;;) {
      const x = 2 * this.uniform() - 1;
      const y = 2 * this.uniform() - 1;
      const s = x * x + y * y;
      if (s === 0 || s >= 1) continue;
      const scale = Math.sqrt((-2 * Math.log(s)) / s);
      this.spare = y * scale;
      return x * scale;
    }
  }

  /** Student's t with `freedom` degrees of freedom, scaled to variance 1 (freedom > 2). */
  heavy(freedom: number): number {
    let chi = 0;
    for (let k = 0; k < freedom; k++) chi += this.normal() ** 2;
    return (this.normal() / Math.sqrt(chi / freedom)) * Math.sqrt((freedom - 2) / freedom);
  }
}
