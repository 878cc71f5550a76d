/** The data service's own time: it begins at an instant and runs a number of times faster than the world's. */
export class FeedClock {
  private base: number;
  private since: number;

  constructor(
    start: number,
    private factor: number,
    private readonly world: () => number = Date.now,
  ) {
    this.base = start;
    this.since = world();
  }

  now(): number {
    return this.base + (this.world() - this.since) * this.factor;
  }

  get speed(): number {
    return this.factor;
  }

  /** Changes the pace from now on. */
  run(factor: number): void {
    this.base = this.now();
    this.since = this.world();
    this.factor = factor;
  }

  /** Sets the time forward. */
  forward(milliseconds: number): void {
    this.base = this.now() + Math.max(0, milliseconds);
    this.since = this.world();
  }
}
