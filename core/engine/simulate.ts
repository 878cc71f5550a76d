import { admit } from "./admission";
import { Leg, type PendingEntry } from "./leg";
import { planLeg, type PreparedRun } from "./prepare";
import { ENTER_LONG, ENTER_SHORT, EXIT_LONG, EXIT_SHORT } from "./signals";
import { Exposure } from "./exposure";
import { Recorder } from "./recorder";
import { BalanceSteps, type SimulateOptions, type Simulation } from "./simulation";
import { Tally } from "./tally";
import { distanceAt, excursion, lookBack } from "./trade-math";
import { END, HALT, MAX_BARS, OPPOSITE, REASONS, RULE, STOP, TARGET, TradeLog } from "./trade-log";

/** Runs strategies on one account, bar by bar. Pure: the same input gives the same result to the last bit. */
export function simulate(run: PreparedRun, options: SimulateOptions = {}): Simulation {
  return new Simulator(run, options).go();
}

class Simulator {
  private readonly legs: Leg[] = [];
  private readonly log: TradeLog;
  private readonly books: Recorder;
  private readonly tally: Tally;
  private readonly equity: Float64Array;
  private readonly balances: BalanceSteps;
  private readonly memberProfit: Float64Array[] | null;
  private readonly memberBalance: Float64Array;
  private readonly concentration: Float64Array | null;
  private readonly exposure: Exposure;
  private readonly lastRowOf: Int32Array;
  private balance: number;
  /** the only leg, where its quiet bars may be passed over quickly */
  private readonly lone: Leg | null;
  private openTrades = 0;
  private pendings = 0;
  private t = 0;
  private halted = false;
  private barsInMarket = 0;
  private ambiguousBars = 0;

  constructor(
    private readonly run: PreparedRun,
    options: SimulateOptions,
  ) {
    const { members, markets, clock, account } = run;
    members.forEach((member, m) => {
      const values = options.values?.[m] ?? member.compiled.values;
      for (const k of member.markets)
        this.legs.push(new Leg(this.legs.length, m, k, member, markets[k], planLeg(member.compiled, markets[k], values), account.costs));
    });
    this.log = options.scratch?.log ?? new TradeLog();
    this.log.reset();
    this.books = new Recorder(options.record ?? false);
    this.tally = new Tally(account.costs);
    this.balance = account.capital;
    const { length } = clock.times;
    this.equity = options.scratch?.float("equity", length) ?? new Float64Array(length);
    this.balances = new BalanceSteps(account.capital);
    this.memberProfit = options.members ? members.map(() => new Float64Array(clock.times.length)) : null;
    this.memberBalance = new Float64Array(members.length);
    this.concentration = options.members ? new Float64Array(clock.times.length) : null;
    this.exposure = new Exposure(markets.length);
    this.lastRowOf = Int32Array.from(this.legs, (leg) => this.finalRow(leg));
    const { costs } = account;
    const alone = this.legs.length === 1 && clock.rows[this.legs[0].marketIndex] === null;
    this.lone = alone && !options.members && costs.financingLongPercent === 0 && costs.financingShortPercent === 0 ? this.legs[0] : null;
  }

  go(): Simulation {
    const length = this.equity.length;
    for (this.t = 0; this.t < length; this.t++) {
      if (this.openTrades === 0 && this.pendings === 0 && !this.skipToSignal()) break;
      if (this.lone !== null && this.openTrades === 1) this.hold(this.lone);
      if (this.t < length) this.step();
    }
    this.finish();
    const { run, legs, log, halted, barsInMarket, ambiguousBars } = this;
    const { commissions, spreadCost, slippageCost, financing, turnover } = this.tally;
    const { peakLong, peakShort } = this.exposure;
    return {
      run,
      legs,
      log,
      equity: this.equity,
      balances: this.balances,
      halted,
      barsInMarket,
      peakLong,
      peakShort,
      ambiguousBars,
      commissions,
      spreadCost,
      slippageCost,
      financing,
      turnover,
      orders: this.books.orders,
      events: this.books.events,
      memberProfit: this.memberProfit,
      concentration: this.concentration,
    };
  }

  private rowAt(leg: Leg, t: number): number {
    const rows = this.run.clock.rows[leg.marketIndex];
    return rows === null ? this.run.clock.firstRow + t : rows[t];
  }

  private finalRow(leg: Leg): number {
    for (let t = this.equity.length - 1; t >= 0; t--) {
      const row = this.rowAt(leg, t);
      if (row >= 0) return row;
    }
    return -1;
  }

  /** With nothing open and nothing pending, goes on to the next close that can form an entry; the equity stays level. False at the end. */
  private skipToSignal(): boolean {
    const { legs, equity, balance, memberProfit, concentration } = this;
    const length = equity.length;
    let t = this.t;
    if (this.halted) t = length;
    else if (legs.length === 1 && this.run.clock.rows[legs[0].marketIndex] === null) {
      const first = this.run.clock.firstRow;
      t = Math.min(length, legs[0].nextEntry(first + t) - first);
    } else {
      scan: for (; t < length; t++)
        for (const leg of legs) {
          const row = this.rowAt(leg, t);
          if (row >= 0 && leg.nextEntry(row) === row) break scan;
        }
    }
    if (t > this.t) {
      equity.fill(balance, this.t, t);
      if (memberProfit !== null) memberProfit.forEach((series, m) => series.fill(this.memberBalance[m], this.t, t));
      if (concentration !== null) concentration.fill(balance > 0 ? 0 : NaN, this.t, t);
      this.t = t;
    }
    return t < length;
  }

  /**
   * With one trade open and nothing waiting, goes on to the next bar on which anything can happen: a level in range, a
   * signal that matters, the last bar held, a halt, the end. Passed bars get their equity; the general step does the rest.
   */
  private hold(leg: Leg): void {
    if (leg.due !== 0 || leg.pending !== null || this.halted) return;
    const { equity, balance, log } = this;
    const { high, low, close } = leg.market.bars;
    const { side, pointValue } = leg;
    const trade = leg.open[0];
    const entry = log.entryPrice[trade];
    const units = log.units[trade];
    const { haltBelow, closeAtEnd } = this.run.account;
    const first = this.run.clock.firstRow;
    const from = first + this.t;
    const until = Math.min(
      first + equity.length - (closeAtEnd ? 1 : 0),
      log.entryRow[trade] + leg.plan.maxBarsHeld,
      leg.nextSignal(from, side as 1 | -1),
    );
    const [above, below] = quietRange(leg, log.stop[trade], log.target[trade]);
    if (log.seen[trade] < from) lookBack(leg, log, trade, from);
    const notional = units * pointValue;
    let largest = 0;
    let top = log.top[trade];
    let bottom = log.bottom[trade];
    let row = from;
    for (; row < until; row++) {
      const h = high[row];
      const l = low[row];
      if (h >= above || l <= below) break;
      const price = close[row];
      const value = balance + side * (price - entry) * units * pointValue;
      if (value <= haltBelow) break;
      if (h > top) top = h;
      if (l < bottom) bottom = l;
      equity[row - first] = value;
      const exposed = notional * Math.abs(price);
      if (exposed > largest * value) largest = exposed / value;
    }
    if (row === from) return;
    log.top[trade] = top;
    log.bottom[trade] = bottom;
    log.seen[trade] = row;
    this.barsInMarket += row - from;
    this.exposure.peak(side, largest);
    leg.lastRow = row - 1;
    leg.lastClose = close[row - 1];
    this.t = row - first;
  }

  private step(): void {
    const { legs } = this;
    this.books.time = this.run.clock.times[this.t];
    for (const leg of legs) leg.row = this.rowAt(leg, this.t);
    if (this.openTrades > 0) for (const leg of legs) if (leg.side !== 0 && leg.row >= 0) this.leaveAtOpen(leg);
    if (this.pendings > 0) for (const leg of legs) if (leg.pending !== null && leg.row >= 0) this.fill(leg, leg.pending);
    if (this.openTrades > 0) for (const leg of legs) if (leg.side !== 0 && leg.row >= 0) this.range(leg);
    this.close();
  }

  /** Phase 1, leaving: financing, exit orders due at the open, the gap check. */
  private leaveAtOpen(leg: Leg): void {
    const { bars, dates } = leg.market;
    const { row } = leg;
    const open = bars.open[row];
    const days = row > 0 ? dates[row] - dates[row - 1] : 0;
    if (days > 0) this.finance(leg, days);
    if (leg.due !== 0) {
      this.closeAll(leg, open, leg.due, false, "filled");
      return;
    }
    const exit = open - leg.side * leg.halfSpread;
    for (let i = 0; i < leg.open.length;) {
      const trade = leg.open[i];
      const worse = leg.side * (exit - this.log.stop[trade]);
      const better = leg.side * (exit - this.log.target[trade]);
      if (worse <= leg.epsilon) this.leave(leg, trade, exit, true, STOP, false);
      else if (better >= -leg.epsilon) this.leave(leg, trade, exit, false, TARGET, false);
      else i++;
    }
  }

  private finance(leg: Leg, days: number): void {
    const { costs } = this.run.account;
    const rate = leg.side === 1 ? costs.financingLongPercent : costs.financingShortPercent;
    if (rate === 0) return;
    for (const trade of leg.open) {
      const cost = (((this.log.units[trade] * Math.abs(leg.market.bars.close[leg.row - 1]) * leg.pointValue * rate) / 100) * days) / 365;
      this.log.costs[trade] += cost;
      this.tally.financing += cost;
      this.pay(leg, cost);
    }
  }

  private pay(leg: Leg, cost: number): void {
    this.balance -= cost;
    this.memberBalance[leg.memberIndex] -= cost;
  }

  /** Fills a market entry at this bar's open or close, closing an opposite position at the same price. */
  private fill(leg: Leg, entry: PendingEntry): void {
    const { log } = this;
    const { bars } = leg.market;
    const { side, units, atClose, signalRow } = entry;
    const mid = atClose ? bars.close[leg.row] : bars.open[leg.row];
    if (leg.side === -side) this.closeAll(leg, mid, OPPOSITE, atClose, "cancelled");
    const base = mid + side * leg.halfSpread;
    const price = base + side * leg.slip;
    leg.pending = null;
    this.pendings--;
    const stopDistance = distanceAt(leg.plan.stop, price, signalRow, NaN);
    const targetDistance = distanceAt(leg.plan.target, price, signalRow, stopDistance);
    const trade = log.add();
    log.leg[trade] = leg.index;
    log.side[trade] = side;
    log.units[trade] = units;
    log.entryRow[trade] = leg.row;
    log.entryPrice[trade] = price;
    log.stop[trade] = price - side * stopDistance;
    log.target[trade] = price + side * targetDistance;
    log.stopDistance[trade] = stopDistance;
    log.exitRow[trade] = -1;
    log.reason[trade] = 0;
    log.gross[trade] = 0;
    log.mae[trade] = 0;
    log.mfe[trade] = 0;
    log.top[trade] = -Infinity;
    log.bottom[trade] = Infinity;
    log.seen[trade] = leg.row + (atClose ? 1 : 0);
    log.entryAtClose[trade] = atClose ? 1 : 0;
    log.exitAtClose[trade] = 0;
    log.costs[trade] = 0;
    this.charge(leg, trade, units, price, true);
    leg.open.push(trade);
    leg.side = side;
    this.openTrades++;
    if (entry.order !== null) this.books.end(entry.order, "filled", "");
    if (this.books.on && this.overMargin(trade, price))
      this.books.event(leg, "overMargin", `the fill at ${price} takes the margin in use above the equity`);
    const out = base - side * 2 * leg.halfSpread;
    if (side * (out - log.stop[trade]) <= leg.epsilon) this.leave(leg, trade, out, true, STOP, false);
    else if (side * (out - log.target[trade]) >= -leg.epsilon) this.leave(leg, trade, out, false, TARGET, false);
  }

  /** Commission, spread and slippage of one fill at a recorded price. */
  private charge(leg: Leg, trade: number, units: number, price: number, slipped: boolean): void {
    const commission = this.tally.fill(leg, units, price, slipped);
    this.log.costs[trade] += commission;
    this.pay(leg, commission);
  }

  /** Whether what is held now ties up more than the equity; the new trade at its own price, the others at their last closes. */
  private overMargin(trade: number, price: number): boolean {
    let equity = this.balance;
    let used = 0;
    for (const other of this.legs)
      for (const open of other.open) {
        if (open !== trade) equity += this.openProfit(other, open);
        used += other.margin(this.log.units[open], open === trade ? price : other.lastClose, this.run.account.leverage);
      }
    return used > equity + 1e-9 * Math.abs(equity);
  }

  private openProfit(leg: Leg, trade: number): number {
    return leg.side * (leg.lastClose - this.log.entryPrice[trade]) * this.log.units[trade] * leg.pointValue;
  }

  /** Phase 2: stop and target against the bar's range, on the side at which the position leaves. */
  private range(leg: Leg): void {
    const { log } = this;
    const { bars } = leg.market;
    const { row, side, epsilon } = leg;
    const shift = side * leg.halfSpread;
    const worst = (side === 1 ? bars.low[row] : bars.high[row]) - shift;
    const best = (side === 1 ? bars.high[row] : bars.low[row]) - shift;
    const { optimistic } = this.run.account;
    let ambiguous = false;
    for (let i = 0; i < leg.open.length;) {
      const trade = leg.open[i];
      const stopped = side * (worst - log.stop[trade]) <= epsilon;
      const beyond = side * (best - log.target[trade]);
      const reached = optimistic ? beyond >= -epsilon : beyond > epsilon;
      if (stopped && reached) ambiguous = true;
      if (stopped && !(reached && optimistic)) this.leave(leg, trade, log.stop[trade], true, STOP, false);
      else if (reached) this.leave(leg, trade, log.target[trade], false, TARGET, false);
      else i++;
    }
    if (ambiguous) this.ambiguousBars++;
  }

  /** Phase 3. */
  private close(): void {
    const { legs, t } = this;
    for (const leg of legs)
      if (leg.row >= 0) {
        leg.lastClose = leg.market.bars.close[leg.row];
        leg.lastRow = leg.row;
        if (leg.side !== 0 && leg.plan.maxBarsHeld !== Infinity) this.leaveAfterBars(leg);
      }
    let equity = this.marked();
    if (!this.halted) {
      if (equity <= this.run.account.haltBelow) this.halt(equity);
      else {
        this.decide(equity);
        if (this.fillAtClose()) equity = this.marked();
      }
    }
    if (this.run.account.closeAtEnd) {
      let closed = false;
      for (const leg of legs)
        if (leg.side !== 0 && leg.row === this.lastRowOf[leg.index]) {
          this.closeAll(leg, leg.lastClose, END, true, "cancelled");
          closed = true;
        }
      if (closed) equity = this.marked();
    }
    this.equity[t] = equity;
    this.balances.note(t, this.balance);
    if (this.openTrades > 0) {
      this.barsInMarket++;
      const share = this.exposure.mark(legs, this.log, equity);
      if (this.concentration !== null) this.concentration[t] = share;
    } else if (this.concentration !== null) this.concentration[t] = equity > 0 ? 0 : NaN;
    if (this.memberProfit !== null) this.profitOfMembers();
  }

  private leaveAfterBars(leg: Leg): void {
    for (let i = 0; i < leg.open.length;) {
      const trade = leg.open[i];
      if (leg.row - this.log.entryRow[trade] >= leg.plan.maxBarsHeld)
        this.leave(leg, trade, leg.lastClose - leg.side * leg.halfSpread, true, MAX_BARS, true);
      else i++;
    }
  }

  private marked(): number {
    let equity = this.balance;
    if (this.openTrades > 0)
      for (const leg of this.legs) for (let i = 0; i < leg.open.length; i++) equity += this.openProfit(leg, leg.open[i]);
    return equity;
  }

  private halt(equity: number): void {
    this.halted = true;
    for (const leg of this.legs) {
      if (leg.pending !== null) {
        if (leg.pending.order !== null) this.books.end(leg.pending.order, "cancelled", "the account was halted");
        this.books.event(leg, "dropped", "the account was halted");
        leg.pending = null;
        this.pendings--;
      }
      if (leg.side !== 0) this.formExit(leg, HALT, false);
    }
    this.books.event(
      this.legs[0],
      "halt",
      `equity ${Math.round(equity)} is at or below ${this.run.account.haltBelow}; every position is closed`,
    );
  }

  /** Rules on data up to this close: first the exit orders of all markets, then the entries. */
  private decide(equity: number): void {
    const { legs } = this;
    let candidates: { leg: Leg; side: 1 | -1; priority: number }[] | null = null;
    for (const leg of legs) {
      if (leg.row < 0) continue;
      const signals = leg.signalsAt(leg.row);
      if (signals === 0) continue;
      const both = (signals & (ENTER_LONG | ENTER_SHORT)) === (ENTER_LONG | ENTER_SHORT);
      const side = both ? 0 : (signals & ENTER_LONG) !== 0 ? 1 : (signals & ENTER_SHORT) !== 0 ? -1 : 0;
      if (leg.side !== 0 && leg.due === 0) {
        const entered = this.log.entryRow[leg.open[0]];
        const looked = entered < leg.row || this.log.entryAtClose[leg.open[0]] === 0;
        const exits = looked && (signals & (leg.side === 1 ? EXIT_LONG : EXIT_SHORT)) !== 0;
        if (exits) this.formExit(leg, RULE, (leg.side === 1 ? leg.member.compiled.long : leg.member.compiled.short)!.exitAtClose);
        else if (side === -leg.side && leg.onOpposite === "close") this.formExit(leg, OPPOSITE, false);
      }
      if (both) this.books.event(leg, "bothSides", "both sides ask to enter at this close; neither does");
      if (side === 0) continue;
      if (leg.side === side && (leg.due !== 0 || leg.open.length >= leg.entriesAtOnce)) continue;
      if (leg.side === -side && leg.onOpposite !== "reverse") continue;
      (candidates ??= []).push({ leg, side, priority: leg.plan.priority === null ? NaN : leg.plan.priority[leg.row] });
    }
    if (candidates === null) return;
    if (candidates.length > 1) candidates.sort(byPriority);
    for (const { leg, side } of candidates) this.enter(leg, side, equity);
  }

  private formExit(leg: Leg, reason: number, atClose: boolean): void {
    leg.due = reason;
    leg.dueAtClose = atClose;
    if (!this.books.on) return;
    leg.exitOrders = leg.open.map((trade) => this.books.order(leg, leg.side as 1 | -1, "exit", this.log.units[trade], REASONS[reason]));
  }

  private enter(leg: Leg, side: 1 | -1, equity: number): void {
    const admission = admit(leg, side, this.legs, this.log, this.run.account, equity);
    if ("refused" in admission) return this.books.event(leg, admission.refused, admission.detail);
    const { units, reducedFrom } = admission;
    if (reducedFrom !== null) this.books.event(leg, "reduced", `${reducedFrom} units cut to ${units} to fit the margin`);
    const compiled = (side === 1 ? leg.member.compiled.long : leg.member.compiled.short)!;
    leg.pending = {
      side,
      units,
      price: leg.lastClose,
      signalRow: leg.row,
      atClose: compiled.enterAtClose,
      order: this.books.on ? this.books.order(leg, side, "entry", units, "rule") : null,
    };
    this.pendings++;
  }

  /** Orders for this close fill: exits before entries. Tells whether anything filled. */
  private fillAtClose(): boolean {
    let filled = false;
    if (this.openTrades > 0)
      for (const leg of this.legs)
        if (leg.due !== 0 && leg.dueAtClose) {
          this.closeAll(leg, leg.lastClose, leg.due, true, "filled");
          filled = true;
        }
    if (this.pendings > 0)
      for (const leg of this.legs)
        if (leg.pending?.atClose) {
          this.fill(leg, leg.pending);
          filled = true;
        }
    return filled;
  }

  /** Closes every trade of a leg at the mid price given, moved by spread and slippage. `fate`: what becomes of waiting exit orders. */
  private closeAll(leg: Leg, mid: number, reason: number, atClose: boolean, fate: "filled" | "cancelled"): void {
    for (const order of leg.exitOrders) this.books.end(order, fate, fate === "filled" ? "" : `closed before by ${REASONS[reason]}`);
    leg.exitOrders = [];
    const price = mid - leg.side * leg.halfSpread;
    while (leg.open.length > 0) this.leave(leg, leg.open[0], price, true, reason, atClose);
  }

  /** Closes one trade at its own side's price; `slipped` moves the price against it. */
  private leave(leg: Leg, trade: number, price: number, slipped: boolean, reason: number, atClose: boolean): void {
    const { log } = this;
    const side = log.side[trade];
    const units = log.units[trade];
    const recorded = slipped ? price - side * leg.slip : price;
    const gross = side * (recorded - log.entryPrice[trade]) * units * leg.pointValue;
    log.exitRow[trade] = leg.row;
    log.exitPrice[trade] = recorded;
    log.reason[trade] = reason;
    log.gross[trade] = gross;
    log.exitAtClose[trade] = atClose ? 1 : 0;
    this.balance += gross;
    this.memberBalance[leg.memberIndex] += gross;
    this.charge(leg, trade, units, recorded, slipped);
    excursion(leg, log, trade, leg.row);
    const at = leg.open.indexOf(trade);
    if (at === leg.open.length - 1) leg.open.pop();
    else leg.open.splice(at, 1);
    this.openTrades--;
    if (leg.open.length > 0) return;
    leg.side = 0;
    leg.due = 0;
    for (const order of leg.exitOrders) this.books.end(order, "cancelled", `closed before by ${REASONS[reason]}`);
    leg.exitOrders = [];
  }

  private profitOfMembers(): void {
    this.memberProfit!.forEach((series, m) => (series[this.t] = this.memberBalance[m]));
    for (const leg of this.legs) for (const trade of leg.open) this.memberProfit![leg.memberIndex][this.t] += this.openProfit(leg, trade);
  }

  /** The end of the run: what waits expires, what is open is valued at its last close. */
  private finish(): void {
    this.t = this.equity.length - 1;
    this.books.time = this.run.clock.times[this.t];
    for (const leg of this.legs) {
      if (leg.pending !== null) {
        this.books.event(leg, "expired", "the run ended before the order could fill");
        if (leg.pending.order !== null) this.books.end(leg.pending.order, "expired", "the run ended");
      }
      for (const order of leg.exitOrders) this.books.end(order, "expired", "the run ended");
      for (const trade of leg.open) {
        this.log.gross[trade] = this.openProfit(leg, trade);
        excursion(leg, this.log, trade, leg.lastRow);
      }
    }
  }
}

/** Highest priority first, missing last; ties stay in the order of members and markets. */
function byPriority(a: { priority: number }, b: { priority: number }): number {
  const [x, y] = [Number.isNaN(a.priority) ? -Infinity : a.priority, Number.isNaN(b.priority) ? -Infinity : b.priority];
  return x === y ? 0 : y > x ? 1 : -1;
}

/**
 * Prices that a bar must stay within so that certainly neither level is reached: a little narrower than the levels, since
 * what is near them is for the general step to decide.
 */
function quietRange(leg: Leg, stop: number, target: number): [above: number, below: number] {
  const shift = leg.side * leg.halfSpread;
  const [upper, lower] = leg.side === 1 ? [target, stop] : [stop, target];
  const slack = (level: number) => 2 * leg.epsilon + 1e-12 * (Math.abs(level) + Math.abs(shift));
  return [Number.isNaN(upper) ? Infinity : upper + shift - slack(upper), Number.isNaN(lower) ? -Infinity : lower + shift + slack(lower)];
}
