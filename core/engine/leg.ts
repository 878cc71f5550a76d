import type { SizingMode } from "#core/documents";
import type { OrderRecord } from "#core/documents";
import type { LegPlan, RunMarket, RunMember } from "./prepare";

/** An entry order that waits for its fill. Distances are those of the signal bar; NaN where they come from the fill price. */
export interface PendingEntry {
  side: 1 | -1;
  units: number;
  price: number;
  signalRow: number;
  atClose: boolean;
  order: OrderRecord | null;
}

/** One member on one market: its fixed figures and what it holds while the run goes on. */
export class Leg {
  /** trades open now, oldest first; all on one side */
  readonly open: number[] = [];
  side: 0 | 1 | -1 = 0;
  /** row of the market's bar at this clock time, −1 without one */
  row = -1;
  lastClose = NaN;
  lastRow = -1;
  pending: PendingEntry | null = null;
  /** reason code of the exit order that waits, 0 without one */
  due = 0;
  dueAtClose = false;
  exitOrders: OrderRecord[] = [];

  readonly halfSpread: number;
  readonly slip: number;
  readonly epsilon: number;
  readonly pointValue: number;
  readonly sizingMode: SizingMode;
  readonly onOpposite: "reverse" | "close" | "ignore";
  readonly entriesAtOnce: number;

  constructor(
    readonly index: number,
    readonly memberIndex: number,
    readonly marketIndex: number,
    readonly member: RunMember,
    readonly market: RunMarket,
    readonly plan: LegPlan,
    costs: { spreadTicks: number; slippageTicks: number },
  ) {
    const { tick, pointValue } = market.spec;
    this.halfSpread = (costs.spreadTicks * tick) / 2;
    this.slip = costs.slippageTicks * tick;
    this.epsilon = 1e-6 * tick;
    this.pointValue = pointValue;
    this.sizingMode = member.compiled.strategy.sizing.mode;
    this.onOpposite = member.compiled.onOpposite;
    this.entriesAtOnce = member.compiled.entriesAtOnce;
  }

  /** Margin that `units` at `price` tie up. */
  margin(units: number, price: number, leverage: number): number {
    const { mode, value } = this.market.spec.margin;
    return mode === "fraction" ? (units * Math.abs(price) * this.pointValue * value) / leverage : (units * value) / leverage;
  }

  /** Whether the open position leaves before an entry formed now fills. */
  leaves(atClose: boolean): boolean {
    return this.due !== 0 && (!atClose || this.dueAtClose);
  }
}
