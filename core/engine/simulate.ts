import { Account } from "./account";
import { admit } from "./admission";
import { DirectStep, isDirect } from "./direct";
import { Exposure } from "./exposure";
import { InsideBar } from "./inside";
import { Leg } from "./leg";
import { planLeg } from "./leg-plan";
import { moveLevels } from "./levels";
import type { EntryOrder } from "./orders";
import { rowAt, type PreparedRun } from "./prepare";
import { hold, skipToSignal } from "./quiet";
import { Recorder } from "./recorder";
import { ENTER_LONG, ENTER_SHORT, EXIT_LONG, EXIT_SHORT } from "./signals";
import { BalanceSteps, type SimulateOptions, type Simulation, type Watch } from "./simulation";
import { CUT, EXIT_TIME, EXIT_WEEKDAY, LAST, LATE_TIME, LATE_WEEKDAY } from "./time-exits";
import { AT_CLOSE, AT_OPEN, END, HALT, MAX_BARS, OPPOSITE, RULE, TIME, TradeLog, WEEKDAY } from "./trade-log";

/** Runs strategies on one account, bar by bar. Pure: the same input gives the same result to the last bit. */
export function simulate(run: PreparedRun, options: SimulateOptions = {}): Simulation {
  return new Simulator(run, options).go();
}

interface Candidate {
  leg: Leg;
  side: 1 | -1;
  priority: number;
}

/** The phases of every clock time: open, within the bar, close. */
export class Simulator {
  readonly legs: Leg[] = [];
  readonly account: Account;
  readonly equity: Float64Array;
  readonly memberProfit: Float64Array[] | null;
  readonly concentration: Float64Array | null;
  readonly exposure: Exposure;
  halted = false;
  t = 0;
  barsInMarket = 0;
  /** whether passed bars get their equity */
  readonly keepsEquity: boolean;
  private readonly log: TradeLog;
  private readonly books: Recorder;
  readonly balances: BalanceSteps;
  readonly inside: InsideBar;
  private readonly lastRowOf: readonly number[];
  /** sides that ask to enter at this close */
  private readonly candidates: Candidate[] = [];
  /** numbers of the bars of this clock time, by leg */
  private readonly numbers: Float64Array | number[];
  private readonly watch: Watch | null;
  /** the only leg, where its quiet bars may be passed over quickly */
  private readonly lone: Leg | null;
  /** the steps of the plainest kind of run; null for the others */
  readonly direct: DirectStep | null;

  constructor(
    readonly run: PreparedRun,
    options: SimulateOptions,
  ) {
    const { members, markets, clock, account: rules } = run;
    members.forEach((member, m) => {
      const values = options.values?.[m] ?? member.compiled.values;
      for (const k of member.markets) {
        const plan = planLeg(member.compiled, markets[k], values);
        if (options.rework) plan.signals = options.rework(plan.signals, this.legs.length, markets[k].bars.length);
        this.legs.push(new Leg(this.legs.length, m, k, member, markets[k], plan, rules.costs));
      }
    });
    this.log = options.scratch?.log ?? new TradeLog();
    this.log.reset();
    this.books = new Recorder(options.record ?? false);
    this.account = new Account(rules, this.log, this.books, this.legs, members.length);
    this.inside = new InsideBar(this.account);
    const { length } = clock.times;
    this.keepsEquity = options.equity ?? true;
    this.equity = options.scratch?.float("equity", length) ?? new Float64Array(length);
    this.balances = new BalanceSteps(rules.capital);
    this.memberProfit = options.members ? members.map(() => new Float64Array(length)) : null;
    this.concentration = options.members ? new Float64Array(length) : null;
    this.exposure = new Exposure(markets.length);
    this.direct = isDirect(run, this.legs, options) ? new DirectStep(this, this.legs[0]) : null;
    this.numbers = this.direct === null ? new Float64Array(this.legs.length) : [];
    this.lastRowOf = this.direct === null ? this.legs.map((leg) => this.finalRow(leg)) : [];
    const { costs } = rules;
    const alone = this.legs.length === 1 && clock.rows[this.legs[0].marketIndex] === null && this.legs[0].quiet;
    this.watch = options.watch ?? null;
    this.lone =
      alone && !options.members && this.watch === null && costs.financingLongPercent === 0 && costs.financingShortPercent === 0
        ? this.legs[0]
        : null;
    for (const leg of this.legs) leg.plan.live?.formulas.advanceFlat(this.firstRow(leg));
  }

  go(): Simulation {
    const length = this.equity.length;
    const { account } = this;
    for (this.t = 0; this.t < length; this.t++) {
      if (account.openTrades === 0 && account.waiting === 0 && !skipToSignal(this)) break;
      if (this.lone !== null && account.openTrades === 1 && account.waiting === 0) hold(this, this.lone);
      if (this.t === length) break;
      if (this.direct === null) this.step();
      else this.direct.step();
    }
    this.finish();
    const { run, legs, log, halted, barsInMarket, equity, balances, memberProfit, concentration } = this;
    const { commissions, spreadCost, slippageCost, financing, turnover } = account.tally;
    const { peakLong, peakShort } = this.exposure;
    const { orders, events } = this.books;
    const { ambiguousBars } = this.inside;
    const costs = { commissions, spreadCost, slippageCost, financing, turnover };
    const kept = { equity, balances, memberProfit, concentration, orders, events };
    return { run, legs, log, halted, barsInMarket, peakLong, peakShort, ambiguousBars, ...costs, ...kept };
  }

  private firstRow(leg: Leg): number {
    for (let t = 0; t < this.equity.length; t++) {
      const row = rowAt(this.run, leg, t);
      if (row >= 0) return row;
    }
    return 0;
  }

  private finalRow(leg: Leg): number {
    for (let t = this.equity.length - 1; t >= 0; t--) {
      const row = rowAt(this.run, leg, t);
      if (row >= 0) return row;
    }
    return -1;
  }

  private step(): void {
    const { legs, account } = this;
    this.books.time = this.run.clock.times[this.t];
    for (const leg of legs) leg.row = rowAt(this.run, leg, this.t);
    if (account.openTrades > 0 || account.waiting > 0) {
      for (const leg of legs) if (leg.row >= 0 && (leg.side !== 0 || leg.orders.length > 0)) this.leaveAtOpen(leg);
      if (account.waiting > 0) {
        for (const leg of legs) if (leg.row >= 0 && leg.orders.length > 0) this.enterAtMarket(leg);
        for (const leg of legs)
          if (leg.row >= 0 && leg.orders.length > 0)
            this.inside.openOrders(leg, leg.market.bars.open[leg.row], this.numbers[leg.index], false);
      }
      for (const leg of legs)
        if (leg.row >= 0 && (leg.side !== 0 || leg.orders.length > 0)) this.inside.within(leg, this.numbers[leg.index]);
    }
    this.close();
  }

  /** Phase 1, leaving: financing, exit orders due at the open, exits by the clock that the session before missed, the gap check. */
  private leaveAtOpen(leg: Leg): void {
    const { bars, dates } = leg.market;
    const { row } = leg;
    const open = bars.open[row];
    this.numbers[leg.index] = this.inside.begin();
    if (leg.side !== 0) {
      const days = row > 0 ? dates[row] - dates[row - 1] : 0;
      if (days > 0) this.finance(leg, days);
      if (leg.due !== 0) this.account.closeAll(leg, open, leg.due, false, "filled");
    }
    const late = leg.plan.marks === null ? 0 : leg.plan.marks.bits[row] & (LATE_TIME | LATE_WEEKDAY);
    if (late !== 0) {
      if (leg.side !== 0) this.account.closeAll(leg, open, (late & LATE_TIME) !== 0 ? TIME : WEEKDAY, false, "cancelled");
      this.dropWorking(leg, "the session before ended ahead of the time of the exit");
    }
    if (leg.side !== 0) this.inside.gap(leg, open);
  }

  private finance(leg: Leg, days: number): void {
    const { account, log } = this;
    const { costs } = this.run.account;
    const rate = leg.side === 1 ? costs.financingLongPercent : costs.financingShortPercent;
    if (rate === 0) return;
    for (const trade of leg.open) {
      const cost = (((log.units[trade] * Math.abs(leg.market.bars.close[leg.row - 1]) * leg.pointValue * rate) / 100) * days) / 365;
      log.costs[trade] += cost;
      account.tally.financing += cost;
      account.pay(leg, cost);
    }
  }

  /** Market entries that are due at this open. */
  private enterAtMarket(leg: Leg): void {
    for (let i = 0; i < leg.orders.length;) {
      const order = leg.orders[i];
      if (order.type !== "market") i++;
      else {
        this.account.enter(leg, order, leg.market.bars.open[leg.row] + order.side * leg.halfSpread, AT_OPEN);
        i = 0;
      }
    }
  }

  /** Ends what works, but not the market orders that wait for an open. */
  private dropWorking(leg: Leg, why: string): void {
    for (let i = leg.orders.length - 1; i >= 0; i--)
      if (leg.orders[i].type !== "market") this.account.endOrder(leg, leg.orders[i], "cancelled", "dropped", why);
  }

  /** Phase 3. */
  private close(): void {
    const { legs, account, t } = this;
    for (const leg of legs)
      if (leg.row >= 0) {
        leg.lastClose = leg.market.bars.close[leg.row];
        leg.lastRow = leg.row;
        if (leg.orders.length > 0) this.age(leg);
        if (leg.side !== 0 && leg.plan.maxBarsHeld !== Infinity) this.leaveAfterBars(leg);
        if (leg.plan.marks !== null) this.leaveByClock(leg);
      }
    let equity = account.marked();
    if (!this.halted) {
      if (equity <= this.run.account.haltBelow) this.halt(equity);
      else {
        this.decide(equity);
        if (this.fillAtClose()) equity = account.marked();
      }
    }
    if (this.run.account.closeAtEnd) {
      let closed = false;
      for (const leg of legs)
        if (leg.side !== 0 && leg.row === this.lastRowOf[leg.index]) {
          account.closeAll(leg, leg.lastClose, END, true, "cancelled");
          closed = true;
        }
      if (closed) equity = account.marked();
    }
    this.equity[t] = equity;
    this.balances.note(t, account.balance);
    if (account.openTrades > 0) {
      this.barsInMarket++;
      const share = this.exposure.mark(legs, this.log, equity);
      if (this.concentration !== null) this.concentration[t] = share;
    } else if (this.concentration !== null) this.concentration[t] = equity > 0 ? 0 : NaN;
    if (this.memberProfit !== null) this.profitOfMembers();
    if (this.watch !== null) this.watch(t, equity, legs, account);
  }

  /** Working orders that have worked on their last bar expire. */
  private age(leg: Leg): void {
    for (let i = leg.orders.length - 1; i >= 0; i--) {
      const order = leg.orders[i];
      if (order.signalRow < leg.row && --order.barsLeft <= 0)
        this.account.endOrder(leg, order, "expired", "expired", `it worked for ${leg.sidePlan(order.side).workingBars} bars`);
    }
  }

  private leaveAfterBars(leg: Leg): void {
    for (let i = 0; i < leg.open.length;) {
      const trade = leg.open[i];
      if (leg.row - this.log.entryRow[trade] >= leg.plan.maxBarsHeld)
        this.account.leave(leg, trade, leg.lastClose - leg.side * leg.halfSpread, true, MAX_BARS, true);
      else i++;
    }
  }

  private leaveByClock(leg: Leg): void {
    const bits = leg.plan.marks!.bits[leg.row];
    if ((bits & CUT) === 0) return;
    if (leg.side !== 0) this.account.closeAll(leg, leg.lastClose, (bits & EXIT_TIME) !== 0 ? TIME : WEEKDAY, true, "cancelled");
    if (leg.orders.length > 0) this.dropWorking(leg, `the time of the ${(bits & EXIT_WEEKDAY) !== 0 ? "weekday " : ""}exit has come`);
  }

  private halt(equity: number): void {
    const { account, legs } = this;
    this.halted = true;
    for (const leg of legs) {
      account.drop(leg, 0, "the account was halted");
      if (leg.side !== 0) account.formExit(leg, HALT, false);
    }
    const detail = `equity ${Math.round(equity)} is at or below ${this.run.account.haltBelow}; every position is closed`;
    this.books.event(legs[0], "halt", detail);
  }

  /** Rules on data up to this close: first the exit orders of all markets, then the entries. */
  private decide(equity: number): void {
    const { candidates } = this;
    candidates.length = 0;
    for (const leg of this.legs) {
      if (leg.row < 0) continue;
      const { live } = leg.plan;
      let signals = leg.signalsAt(leg.row);
      if (live !== null) {
        this.seePosition(leg);
        if (live.formulas.remembers) live.formulas.advance(leg.row);
        for (const { bit, yes } of live.rules) if (yes(leg.row) === 1) signals |= bit;
      }
      if (leg.plan.moving) for (const trade of leg.open) this.moveLevels(leg, trade);
      if (signals !== 0) this.weigh(leg, signals);
    }
    if (candidates.length === 0) return;
    if (candidates.length === 1) return this.enter(candidates[0].leg, candidates[0].side, equity);
    candidates.sort(byPriority);
    for (const { leg, side } of candidates) this.enter(leg, side, equity);
  }

  private moveLevels(leg: Leg, trade: number): void {
    moveLevels(leg, this.log, trade, this.run.account.intrabar, this.run.account.roundToTick);
  }

  /** What the rules see of the position at this close: the oldest entry's. */
  seePosition(leg: Leg): void {
    const { position } = leg.plan.live!.formulas;
    const { side } = leg;
    position.inLong = side === 1 ? 1 : 0;
    position.inShort = side === -1 ? 1 : 0;
    if (side === 0) {
      position.barsHeld = position.entryPrice = position.openProfit = position.openR = NaN;
      return;
    }
    const { log } = this;
    const trade = leg.open[0];
    position.barsHeld = leg.row - log.entryRow[trade];
    position.entryPrice = log.entryPrice[trade];
    position.openProfit = side * (leg.lastClose - position.entryPrice);
    const inR = position.openProfit / log.stopDistance[trade];
    position.openR = inR - inR === 0 ? inR : NaN;
  }

  /** Forms the exit orders that a leg's signals ask for, and notes the sides that ask to enter. */
  private weigh(leg: Leg, signals: number): void {
    const { account } = this;
    const { plan, side } = leg;
    const both = (signals & ENTER_LONG) !== 0 && (signals & ENTER_SHORT) !== 0;
    const clash = both && plan.long.type === "market" && plan.short.type === "market";
    if (side !== 0 && leg.due === 0) {
      const oldest = leg.open[0];
      const looked = this.log.entryRow[oldest] < leg.row || this.log.how[oldest] !== AT_CLOSE;
      if (looked && (signals & (side === 1 ? EXIT_LONG : EXIT_SHORT)) !== 0) {
        account.formExit(leg, RULE, leg.sidePlan(side).exitAtClose);
        account.drop(leg, side, "the position's exit rule says yes");
      } else if (!clash && leg.onOpposite === "close" && (signals & (side === 1 ? ENTER_SHORT : ENTER_LONG)) !== 0) {
        account.formExit(leg, OPPOSITE, false);
        account.drop(leg, side, "the other side asks to enter, which closes the position");
      }
    }
    if (clash) return this.books.event(leg, "bothSides", "both sides ask to enter at this close; neither does");
    if ((signals & ENTER_LONG) !== 0) this.ask(leg, 1);
    if ((signals & ENTER_SHORT) !== 0) this.ask(leg, -1);
  }

  /** Takes a side that asks to enter among the candidates, unless its position or the clock stand against it. */
  private ask(leg: Leg, side: 1 | -1): void {
    const { plan } = leg;
    if (plan.marks !== null) {
      // past the time of an exit by the clock, only entries for another session are formed
      const bits = plan.marks.bits[leg.row];
      if ((bits & CUT) !== 0 && (leg.sidePlan(side).atClose || (bits & LAST) === 0)) return;
    }
    if (leg.side === side && (leg.due !== 0 || leg.open.length >= leg.entriesAtOnce)) return;
    if (leg.side === -side && leg.onOpposite !== "reverse") return;
    this.candidates.push({ leg, side, priority: plan.priority === null ? NaN : plan.priority(leg.row) });
  }

  /** Forms an entry order if the account lets it; it takes the place of the side's order that still works. */
  private enter(leg: Leg, side: 1 | -1, equity: number): void {
    const { account, books } = this;
    const admission = admit(leg, side, this.legs, this.log, this.run.account, equity);
    if ("refused" in admission) return books.event(leg, admission.refused, admission.detail);
    const { units, price, levels, reducedFrom } = admission;
    if (reducedFrom !== null) books.event(leg, "reduced", `${reducedFrom} units cut to ${units} to fit the margin`);
    const before = leg.orderOf(side);
    if (before !== null) account.endOrder(leg, before, "replaced", "replaced", "a newer signal took its place");
    const { type, atClose, through, workingBars } = leg.sidePlan(side);
    const order: EntryOrder = {
      side,
      type,
      units,
      price,
      signalRow: leg.row,
      atClose,
      through,
      barsLeft: workingBars,
      age: 0,
      barredIn: 0,
      levels,
      record: null,
    };
    account.place(leg, order);
  }

  /** Orders for this close fill: exits before entries, these in the order in which they were formed. Tells whether anything filled. */
  private fillAtClose(): boolean {
    const { account, legs } = this;
    let filled = false;
    if (account.openTrades > 0)
      for (const leg of legs)
        if (leg.due !== 0 && leg.dueAtClose) {
          account.closeAll(leg, leg.lastClose, leg.due, true, "filled");
          filled = true;
        }
    if (account.waiting > 0)
      for (;;) {
        let first: { leg: Leg; order: EntryOrder } | null = null;
        for (const leg of legs)
          for (const order of leg.orders) if (order.atClose && (first === null || order.age < first.order.age)) first = { leg, order };
        if (first === null) break;
        account.enter(first.leg, first.order, first.leg.lastClose + first.order.side * first.leg.halfSpread, AT_CLOSE);
        filled = true;
      }
    return filled;
  }

  private profitOfMembers(): void {
    const { account, memberProfit, legs, t } = this;
    memberProfit!.forEach((series, m) => (series[t] = account.memberBalance[m]));
    for (const leg of legs) for (const trade of leg.open) memberProfit![leg.memberIndex][t] += account.openProfit(leg, trade);
  }

  /** The end of the run: what waits expires, what is open is valued at its last close. */
  private finish(): void {
    this.t = this.equity.length - 1;
    this.books.time = this.run.clock.times[this.t];
    for (const leg of this.legs) {
      while (leg.orders.length > 0)
        this.account.endOrder(leg, leg.orders[0], "expired", "expired", "the run ended before the order could fill");
      for (const order of leg.exitOrders) this.books.end(order, "expired", "the run ended");
      for (const trade of leg.open) this.log.gross[trade] = this.account.openProfit(leg, trade);
    }
    if (!this.keepsEquity) this.equity[this.t] = this.account.marked();
  }
}

/** Highest priority first, missing last; ties stay in the order of members and markets, a market's long before its short. */
function byPriority(a: { priority: number }, b: { priority: number }): number {
  const [x, y] = [Number.isNaN(a.priority) ? -Infinity : a.priority, Number.isNaN(b.priority) ? -Infinity : b.priority];
  return x === y ? 0 : y > x ? 1 : -1;
}
