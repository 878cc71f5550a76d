import type { OrderRecord, SizingMode } from "#core/documents";
import type { Reading } from "#core/rules";
import { ENTER_LONG, ENTER_SHORT, EXIT_LONG, EXIT_SHORT } from "./signals";
import type { LegPlan, OrderPlan } from "./leg-plan";
import type { EntryOrder } from "./orders";
import type { RunMarket, RunMember } from "./prepare";

/** One member on one market: its fixed figures and what it holds while the run goes on. */
export class Leg {
  /** trades open now, oldest first; all on one side */
  readonly open: number[] = [];
  side: 0 | 1 | -1 = 0;
  /** row of the market's bar at this clock time, −1 without one */
  row = -1;
  lastClose = NaN;
  lastRow = -1;
  /** entry orders that wait or work, oldest first: at most one a side */
  readonly orders: EntryOrder[] = [];
  /** reason code of the exit order that waits, 0 without one */
  due = 0;
  dueAtClose = false;
  exitOrders: OrderRecord[] = [];

  /** the next signal at or after the rows looked at so far */
  private cursor = 0;
  /** where the searches for what matters to a long position, to a short one and without one stand */
  private readonly ahead = [0, 0, 0];
  private readonly watched: readonly [long: number, short: number];
  /** rules that rest on the position and matter to a long one, to a short one */
  readonly liveWatched: readonly [long: readonly Reading[], short: readonly Reading[]];

  readonly halfSpread: number;
  readonly slip: number;
  readonly epsilon: number;
  readonly pointValue: number;
  readonly sizingMode: SizingMode;
  /** whether sizes rest on the starting capital rather than on the equity */
  readonly sizesByCapital: boolean;
  readonly onOpposite: "reverse" | "close" | "ignore";
  readonly entriesAtOnce: number;
  /** whether bars on which no level is in range and no signal says anything may be passed over while a trade is open */
  readonly quiet: boolean;

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
    this.sizesByCapital = member.compiled.strategy.sizing.base === "initial";
    this.onOpposite = member.compiled.onOpposite;
    this.entriesAtOnce = member.compiled.entriesAtOnce;
    const more = this.entriesAtOnce > 1;
    this.watched = [EXIT_LONG | ENTER_SHORT | (more ? ENTER_LONG : 0), EXIT_SHORT | ENTER_LONG | (more ? ENTER_SHORT : 0)];
    const live = (mask: number) => plan.live?.rules.filter(({ bit }) => (bit & mask) !== 0).map(({ yes }) => yes) ?? [];
    this.liveWatched = [live(this.watched[0]), live(this.watched[1])];
    this.quiet = !plan.moving && !plan.live?.always;
  }

  /** The member's share of the account at the bar at hand: entries are sized by it, what is open stays as it is. */
  weight(): number {
    const { steps, weight } = this.member;
    if (steps === undefined) return weight;
    const date = this.market.dates[this.row];
    let own = weight;
    for (const step of steps) if (step.from <= date) own = step.weight;
    return own;
  }

  /** How a side enters and leaves. */
  sidePlan(side: 1 | -1): OrderPlan {
    return side === 1 ? this.plan.long : this.plan.short;
  }

  /** The entry order of a side that waits or works; null without one. */
  orderOf(side: 1 | -1): EntryOrder | null {
    for (const order of this.orders) if (order.side === side) return order;
    return null;
  }

  /** Signal bits of a row from the rules that don't rest on the position; rows are asked for in order. */
  signalsAt(row: number): number {
    const { rows, bits } = this.plan.signals;
    while (rows[this.cursor] < row) this.cursor++;
    return rows[this.cursor] === row ? bits[this.cursor] : 0;
  }

  /** The first row from `row` on with a signal that matters to a position of the side; rows are asked for in order. */
  nextSignal(row: number, side: 1 | -1): number {
    const which = side === 1 ? 0 : 1;
    this.ahead[which] = this.search(this.ahead[which], row, this.watched[which]);
    return this.plan.signals.rows[this.ahead[which]];
  }

  /** The first row from `row` on whose close may form an entry; rows are asked for in order. */
  nextEntry(row: number): number {
    if (this.plan.live?.always) return row;
    this.ahead[2] = this.search(this.ahead[2], row, ENTER_LONG | ENTER_SHORT);
    return this.plan.signals.rows[this.ahead[2]];
  }

  private search(at: number, row: number, mask: number): number {
    const { rows, bits } = this.plan.signals;
    while (rows[at] < row || (bits[at] & mask) === 0) at++;
    return at;
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
