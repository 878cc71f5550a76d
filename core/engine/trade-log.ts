import { ColumnMemory } from "#core/rules";

/** Exit reasons by code, in the order of the codes. */
export const REASONS = [
  "",
  "rule",
  "opposite",
  "stop",
  "target",
  "trail",
  "breakeven",
  "maxBarsHeld",
  "time",
  "weekday",
  "halt",
  "end",
] as const;
export const RULE = 1;
export const OPPOSITE = 2;
export const STOP = 3;
export const TARGET = 4;
export const TRAIL = 5;
export const BREAKEVEN = 6;
export const MAX_BARS = 7;
export const TIME = 8;
export const WEEKDAY = 9;
export const HALT = 10;
export const END = 11;

/** How an entry filled: at the bar's open, inside the bar by a stop or a limit order, at the close. */
export const AT_OPEN = 0;
export const BY_STOP = 1;
export const BY_LIMIT = 2;
export const AT_CLOSE = 3;

/**
 * All trades of a run as growing columns; a trade is a row, in the order of the entry fills. It can be reset and used for
 * the next trial without giving memory back.
 */
export class TradeLog {
  count = 0;
  private capacity = 256;
  leg = new Int32Array(this.capacity);
  /** 1 long, −1 short */
  side = new Int8Array(this.capacity);
  units = new Float64Array(this.capacity);
  /** rows of the market's own bars */
  entryRow = new Int32Array(this.capacity);
  exitRow = new Int32Array(this.capacity);
  entryPrice = new Float64Array(this.capacity);
  exitPrice = new Float64Array(this.capacity);
  /** 0 while open, else an index into REASONS */
  reason = new Uint8Array(this.capacity);
  /** levels; NaN where there is none. The stop-kind one is the tightest of stop, break-even and trail, `stopReason` the one that set it */
  stop = new Float64Array(this.capacity);
  target = new Float64Array(this.capacity);
  stopReason = new Uint8Array(this.capacity);
  /** from the recorded entry to the initial stop; NaN without a stop */
  stopDistance = new Float64Array(this.capacity);
  gross = new Float64Array(this.capacity);
  costs = new Float64Array(this.capacity);
  how = new Uint8Array(this.capacity);
  /** whether the exit filled at a bar's close */
  exitAtClose = new Uint8Array(this.capacity);
  /** what moves a stop-kind level, set only where something does: the stop without trail and break-even, the best price since the entry and after it on the entry bar's path, the trail so far, and the distances fixed at the entry */
  ownStop = new Float64Array(this.capacity);
  best = new Float64Array(this.capacity);
  pathBest = new Float64Array(this.capacity);
  trail = new Float64Array(this.capacity);
  trailDistance = new Float64Array(this.capacity);
  trailAfter = new Float64Array(this.capacity);
  trigger = new Float64Array(this.capacity);
  offset = new Float64Array(this.capacity);

  reset(): void {
    this.count = 0;
  }

  /** Begins a trade and gives its number; its levels are set by the caller. */
  open(leg: number, side: 1 | -1, units: number, row: number, price: number, how: number): number {
    if (this.count === this.capacity) this.grow();
    const trade = this.count++;
    this.leg[trade] = leg;
    this.side[trade] = side;
    this.units[trade] = units;
    this.entryRow[trade] = row;
    this.entryPrice[trade] = price;
    this.exitRow[trade] = -1;
    this.reason[trade] = 0;
    this.gross[trade] = 0;
    this.how[trade] = how;
    this.exitAtClose[trade] = 0;
    this.costs[trade] = 0;
    return trade;
  }

  /** Ends a trade at a recorded price; gives its gross. */
  close(trade: number, row: number, price: number, reason: number, atClose: boolean, pointValue: number): number {
    const gross = this.side[trade] * (price - this.entryPrice[trade]) * this.units[trade] * pointValue;
    this.exitRow[trade] = row;
    this.exitPrice[trade] = price;
    this.reason[trade] = reason;
    this.gross[trade] = gross;
    this.exitAtClose[trade] = atClose ? 1 : 0;
    return gross;
  }

  private grow(): void {
    this.capacity *= 2;
    for (const [name, column] of Object.entries(this)) {
      if (!ArrayBuffer.isView(column)) continue;
      const Type = column.constructor as new (length: number) => Float64Array;
      const larger = new Type(this.capacity);
      larger.set(column as Float64Array);
      (this as unknown as Record<string, unknown>)[name] = larger;
    }
  }

  /** Net of a row: gross less costs. An open trade's gross is its value at the last close. */
  net(row: number): number {
    return this.gross[row] - this.costs[row];
  }
}

/** Memory that one thread's trials use one after the other: what a simulation hands back is overwritten by the next one. */
export class Scratch {
  readonly log = new TradeLog();
  readonly columns = new ColumnMemory();
  private readonly floats = new Map<string, Float64Array>();

  /** A column of floats under a name; its old content is still in it. */
  float(name: string, length: number): Float64Array {
    let column = this.floats.get(name);
    if (column === undefined || column.length !== length) this.floats.set(name, (column = new Float64Array(length)));
    return column;
  }
}
