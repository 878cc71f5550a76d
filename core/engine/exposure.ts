import type { Leg } from "./leg";
import type { TradeLog } from "./trade-log";

/** Follows how large the positions in one market become, over all members. */
export class Exposure {
  /** largest notional of one market on a side ÷ equity, at a close so far */
  peakLong = 0;
  peakShort = 0;
  private readonly long: number[] = [];
  private readonly short: number[] = [];

  constructor(private readonly markets: number) {}

  /** Takes a close into account; gives the largest market's net notional there ÷ equity (NaN where equity ≤ 0). */
  mark(legs: readonly Leg[], log: TradeLog, equity: number): number {
    const { long, short, markets } = this;
    for (let m = 0; m < markets; m++) long[m] = short[m] = 0;
    for (const leg of legs) {
      if (leg.side === 0) continue;
      let units = 0;
      for (let i = 0; i < leg.open.length; i++) units += log.units[leg.open[i]];
      const notional = units * leg.pointValue * Math.abs(leg.lastClose);
      if (leg.side === 1) long[leg.marketIndex] += notional;
      else short[leg.marketIndex] += notional;
    }
    let largest = 0;
    for (let m = 0; m < long.length; m++) {
      this.peak(1, long[m] / equity);
      this.peak(-1, short[m] / equity);
      largest = Math.max(largest, Math.abs(long[m] - short[m]));
    }
    return equity > 0 ? largest / equity : NaN;
  }

  /** Keeps a share of the equity on a side if it is the largest so far. */
  peak(side: 1 | -1 | 0, share: number): void {
    if (side === 1 && share > this.peakLong) this.peakLong = share;
    if (side === -1 && share > this.peakShort) this.peakShort = share;
  }
}
