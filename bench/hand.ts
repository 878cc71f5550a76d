/**
 * The baseline: the loop that a trader would write by hand over typed arrays for this one strategy. Two averages, reversing at
 * the following open, a stop and a target in atr from the entry, slippage and a commission per unit. It computes its three
 * columns, the list of trades and the equity per bar, in memory that is given to it. It leaves out what the engine looks
 * after beside that: sessions, tolerance, margin, size, halts, gaps in the data, ambiguous bars, reasons.
 */
export class HandLoop {
  private readonly fast: Float64Array;
  private readonly slow: Float64Array;
  private readonly range: Float64Array;
  readonly equity: Float64Array;
  readonly entryRow: Int32Array;
  readonly exitRow: Int32Array;
  readonly entryPrice: Float64Array;
  readonly exitPrice: Float64Array;
  readonly net: Float64Array;
  trades = 0;

  constructor(readonly length: number) {
    this.fast = new Float64Array(length);
    this.slow = new Float64Array(length);
    this.range = new Float64Array(length);
    this.equity = new Float64Array(length);
    this.entryRow = new Int32Array(length);
    this.exitRow = new Int32Array(length);
    this.entryPrice = new Float64Array(length);
    this.exitPrice = new Float64Array(length);
    this.net = new Float64Array(length);
  }

  /** One backtest from the start; gives the net profit. */
  run(bars: HandBars, rules: HandRules): number {
    const { open, high, low, close } = bars;
    const { fast, slow, range, equity, entryRow, exitRow, entryPrice, exitPrice, net } = this;
    const n = this.length;
    average(close, rules.fast, fast);
    average(close, rules.slow, slow);
    averageRange(bars, rules.period, range);
    const { units, slip, perUnit, stopAtr, targetAtr } = rules;
    const commission = units * perUnit;
    let balance = 100_000;
    let trades = 0;
    let side = 0;
    let entry = 0;
    let stop = 0;
    let target = 0;
    let pending = 0;
    let pendingAtr = 0;
    let above = 0;
    for (let t = 0; t < n; t++) {
      let exit = NaN;
      if (pending !== 0) {
        if (side !== 0) exit = open[t] - side * slip;
      } else if (side !== 0) {
        if (side * (open[t] - stop) <= 0) exit = open[t] - side * slip;
        else if (side * (open[t] - target) >= 0) exit = open[t];
      }
      for (;;) {
        if (exit === exit) {
          const gross = side * (exit - entry) * units;
          balance += gross - commission;
          exitRow[trades] = t;
          exitPrice[trades] = exit;
          net[trades] = gross - 2 * commission;
          trades++;
          side = 0;
        }
        if (pending !== 0) {
          side = pending;
          entry = open[t] + side * slip;
          stop = entry - side * stopAtr * pendingAtr;
          target = entry + side * targetAtr * pendingAtr;
          balance -= commission;
          entryRow[trades] = t;
          entryPrice[trades] = entry;
          pending = 0;
        }
        if (side === 1) {
          if (low[t] <= stop) exit = stop - slip;
          else if (high[t] > target) exit = target;
          else break;
        } else if (side === -1) {
          if (high[t] >= stop) exit = stop + slip;
          else if (low[t] < target) exit = target;
          else break;
        } else break;
      }
      const c = close[t];
      equity[t] = balance + side * (c - entry) * units;
      const difference = fast[t] - slow[t];
      if (difference > 0) {
        if (above < 0 && side !== 1) {
          pending = 1;
          pendingAtr = range[t];
        }
        above = 1;
      } else if (difference < 0) {
        if (above > 0 && side !== -1) {
          pending = -1;
          pendingAtr = range[t];
        }
        above = -1;
      }
    }
    this.trades = trades;
    return equity[n - 1] - 100_000;
  }
}

export interface HandBars {
  open: Float64Array;
  high: Float64Array;
  low: Float64Array;
  close: Float64Array;
}

export interface HandRules {
  fast: number;
  slow: number;
  period: number;
  stopAtr: number;
  targetAtr: number;
  units: number;
  slip: number;
  perUnit: number;
}

function average(x: Float64Array, n: number, out: Float64Array): void {
  let sum = 0;
  for (let t = 0; t < x.length; t++) {
    sum += x[t];
    if (t >= n) sum -= x[t - n];
    out[t] = t >= n - 1 ? sum / n : NaN;
  }
}

function averageRange({ high, low, close }: HandBars, n: number, out: Float64Array): void {
  let sum = 0;
  let average = 0;
  for (let t = 0; t < close.length; t++) {
    const range =
      t === 0 ? high[t] - low[t] : Math.max(high[t] - low[t], Math.abs(high[t] - close[t - 1]), Math.abs(low[t] - close[t - 1]));
    if (t < n) {
      sum += range;
      average = sum / n;
    } else average += (range - average) / n;
    out[t] = t >= n - 1 ? average : NaN;
  }
}
