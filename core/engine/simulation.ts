import type { OrderRecord, RunEvent } from "#core/documents";
import type { ParameterValues } from "#core/rules";
import type { Account } from "./account";
import type { Leg } from "./leg";
import type { PreparedRun } from "./prepare";
import type { Signals } from "./signals";
import type { Scratch, TradeLog } from "./trade-log";

/** The balance after each close, kept as the times at which it changes: most closes change nothing. */
export class BalanceSteps {
  private readonly at: number[] = [];
  private readonly value: number[] = [];

  constructor(private last: number) {
    this.at.push(0);
    this.value.push(last);
  }

  /** The balance after the close of clock time t; times come in order. */
  note(t: number, balance: number): void {
    if (balance === this.last) return;
    this.last = balance;
    this.at.push(t);
    this.value.push(balance);
  }

  /** One balance per clock time. */
  column(length: number): Float64Array {
    const out = new Float64Array(length);
    this.at.forEach((from, k) => out.fill(this.value[k], from, this.at[k + 1] ?? length));
    return out;
  }
}

/** What a simulation leaves behind: everything that metrics and results are made of. */
export interface Simulation {
  run: PreparedRun;
  legs: Leg[];
  log: TradeLog;
  /** per clock time, after the close */
  equity: Float64Array;
  balances: BalanceSteps;
  halted: boolean;
  barsInMarket: number;
  peakLong: number;
  peakShort: number;
  ambiguousBars: number;
  commissions: number;
  spreadCost: number;
  slippageCost: number;
  financing: number;
  turnover: number;
  orders: OrderRecord[];
  events: RunEvent[];
  /** own profit per member and clock time, and the largest market's share of the equity; where they were asked for */
  memberProfit: Float64Array[] | null;
  concentration: Float64Array | null;
}

/**
 * Looks on at closes: all but those that are passed over because nothing was open and nothing waited at them, where
 * nothing changes. It must change nothing itself.
 */
export type Watch = (t: number, equity: number, legs: readonly Leg[], account: Account) => void;

/** What the entry signals of a leg become; it must leave those that it is given as they are. `rows`: bars of the leg's market. */
export type EntryRework = (signals: Signals, leg: number, rows: number) => Signals;

export interface SimulateOptions {
  /** parameter values per member; each member's own where left out */
  values?: readonly ParameterValues[];
  /** keep orders and events (not needed for trials) */
  record?: boolean;
  /** keep the members' profit and the concentration over time */
  members?: boolean;
  /** false: no equity but at the last close, and no peak exposure, for figures that rest on trades alone */
  equity?: boolean;
  /** other entries than the rules ask for; only of rules that don't rest on the position */
  rework?: EntryRework;
  /** called at closes; the general way is gone */
  watch?: Watch;
  /** go the general way even where a shorter one leads to the same result; so that both can be compared */
  stepwise?: boolean;
  /** memory to use again; what an earlier simulation with it gave is overwritten */
  scratch?: Scratch;
}
