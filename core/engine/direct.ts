import { AT_OPEN, END, HALT, MAX_BARS, OPPOSITE, RULE, STOP, TARGET, type TradeLog } from "./trade-log";
import { stepped, tooFew, unroundedUnits } from "./admission";
import type { Account } from "./account";
import type { Leg } from "./leg";
import type { DistancePlan, LevelPlan } from "./leg-plan";
import { distanceAt, setLevels, type SignalLevels } from "./levels";
import type { PreparedRun } from "./prepare";
import { ENTER_LONG, ENTER_SHORT, EXIT_LONG, EXIT_SHORT } from "./signals";
import type { Simulator } from "./simulate";
import type { SimulateOptions } from "./simulation";
import { nearestTick } from "./ticks";

const NO_LEVELS: SignalLevels = { stop: NaN, target: NaN };

const measured = (part: DistancePlan | LevelPlan | null): boolean => part === null || part.unit !== "price";

/**
 * Whether a run is of the plainest kind, which most trials are: one strategy on one market, one entry at once, market
 * orders at the following open, levels at fixed distances, nothing that the clock or finer bars decide, no books kept.
 */
export function isDirect(run: PreparedRun, legs: readonly Leg[], options: SimulateOptions): boolean {
  if (legs.length !== 1 || options.record || options.members || options.stepwise || options.watch) return false;
  const [leg] = legs;
  const { plan, market } = leg;
  const { costs, intrabar } = run.account;
  return (
    run.clock.rows[leg.marketIndex] === null &&
    leg.quiet &&
    leg.entriesAtOnce === 1 &&
    market.fine === null &&
    plan.marks === null &&
    intrabar !== "path" &&
    costs.financingLongPercent === 0 &&
    costs.financingShortPercent === 0 &&
    [plan.long, plan.short].every((order) => order.type === "market" && !order.atClose && !order.exitAtClose) &&
    measured(plan.stop) &&
    measured(plan.target)
  );
}

/**
 * The phases of a bar for runs of the plainest kind: what the general step does with them, to the last bit, without its
 * lists of orders, candidates and markets. An entry waits for the next open as a few numbers.
 */
export class DirectStep {
  private readonly account: Account;
  private readonly log: TradeLog;
  /** the side that enters at the next open, and what its order fixed */
  private wanted: 0 | 1 | -1 = 0;
  private units = 0;
  private signalRow = -1;

  constructor(
    private readonly sim: Simulator,
    private readonly leg: Leg,
  ) {
    this.account = sim.account;
    this.log = sim.account.log;
  }

  step(): void {
    const { leg, sim } = this;
    const row = sim.run.clock.firstRow + sim.t;
    leg.row = row;
    if (leg.side !== 0 || this.wanted !== 0) {
      const { bars } = leg.market;
      const open = bars.open[row];
      if (leg.side !== 0) this.leaveAtOpen(open);
      if (this.wanted !== 0) this.enter(open);
      if (leg.side !== 0) this.within(bars.high[row], bars.low[row]);
    }
    this.close(row);
  }

  private leaveAtOpen(open: number): void {
    const { leg, log } = this;
    const { side, epsilon } = leg;
    const exit = open - side * leg.halfSpread;
    const trade = leg.open[0];
    if (leg.due !== 0) this.leave(trade, exit, true, leg.due, false);
    else if (side * (exit - log.stop[trade]) <= epsilon) this.leave(trade, exit, true, STOP, false);
    else if (side * (exit - log.target[trade]) >= -epsilon) this.leave(trade, exit, false, TARGET, false);
  }

  private enter(open: number): void {
    const { leg, log, account, units } = this;
    const side = this.wanted as 1 | -1;
    this.wanted = 0;
    account.waiting = 0;
    const base = open + side * leg.halfSpread;
    let price = base + side * leg.slip;
    if (account.rules.roundToTick) price = nearestTick(price, leg.market.spec.tick, side);
    if (leg.side !== 0) this.record(leg.open[0], price, true, OPPOSITE, false);
    const trade = log.open(0, side, units, leg.row, price, AT_OPEN);
    setLevels(leg, log, trade, this.signalRow, NO_LEVELS, account.rules.roundToTick);
    this.charge(trade, units, price, true);
    leg.open[0] = trade;
    leg.side = side;
    account.openTrades = 1;
    const out = base - side * 2 * leg.halfSpread;
    if (side * (out - log.stop[trade]) <= leg.epsilon) this.leave(trade, out, true, STOP, false);
    else if (side * (out - log.target[trade]) >= -leg.epsilon) this.leave(trade, out, false, TARGET, false);
  }

  private within(high: number, low: number): void {
    const { leg, log } = this;
    const { side, epsilon } = leg;
    const trade = leg.open[0];
    const shift = side * leg.halfSpread;
    const worst = (side === 1 ? low : high) - shift;
    const best = (side === 1 ? high : low) - shift;
    const optimistic = this.account.rules.intrabar === "optimistic";
    const stopped = side * (worst - log.stop[trade]) <= epsilon;
    const beyond = side * (best - log.target[trade]);
    const reached = optimistic ? beyond >= -epsilon : beyond > epsilon;
    if (stopped && reached) this.sim.inside.ambiguousBars++;
    if (stopped && !(reached && optimistic)) this.leave(trade, log.stop[trade], true, STOP, false);
    else if (reached) this.leave(trade, log.target[trade], false, TARGET, false);
  }

  private close(row: number): void {
    const { leg, sim, account, log } = this;
    const price = leg.market.bars.close[row];
    leg.lastClose = price;
    leg.lastRow = row;
    if (leg.side !== 0 && row - log.entryRow[leg.open[0]] >= leg.plan.maxBarsHeld)
      this.leave(leg.open[0], price - leg.side * leg.halfSpread, true, MAX_BARS, true);
    let equity = this.marked();
    if (!sim.halted) {
      if (equity <= account.rules.haltBelow) {
        sim.halted = true;
        if (leg.side !== 0) leg.due = HALT;
      } else this.decide(row, equity);
    }
    if (account.rules.closeAtEnd && leg.side !== 0 && sim.t === sim.equity.length - 1) {
      this.leave(leg.open[0], price - leg.side * leg.halfSpread, true, END, true);
      equity = account.balance;
    }
    sim.equity[sim.t] = equity;
    sim.balances.note(sim.t, account.balance);
    if (leg.side === 0) return;
    sim.barsInMarket++;
    sim.exposure.peak(leg.side, (log.units[leg.open[0]] * leg.pointValue * Math.abs(price)) / equity);
  }

  private marked(): number {
    const { leg, account } = this;
    return leg.side === 0 ? account.balance : account.balance + account.openProfit(leg, leg.open[0]);
  }

  private decide(row: number, equity: number): void {
    const { leg } = this;
    let signals = leg.signalsAt(row);
    const { live } = leg.plan;
    if (live !== null && leg.side !== 0) {
      this.sim.seePosition(leg);
      for (const { bit, yes } of live.rules) if (yes(row) === 1) signals |= bit;
    }
    if (signals === 0) return;
    const { side } = leg;
    const clash = (signals & ENTER_LONG) !== 0 && (signals & ENTER_SHORT) !== 0;
    if (side !== 0 && leg.due === 0) {
      if ((signals & (side === 1 ? EXIT_LONG : EXIT_SHORT)) !== 0) leg.due = RULE;
      else if (!clash && leg.onOpposite === "close" && (signals & (side === 1 ? ENTER_SHORT : ENTER_LONG)) !== 0) leg.due = OPPOSITE;
    }
    if (clash) return;
    const asked = (signals & ENTER_LONG) !== 0 ? 1 : (signals & ENTER_SHORT) !== 0 ? -1 : 0;
    if (asked === 0 || side === asked || (side !== 0 && leg.onOpposite !== "reverse")) return;
    const units = this.admitted(row, asked, equity);
    if (units === 0) return;
    this.wanted = asked;
    this.units = units;
    this.signalRow = row;
    this.account.waiting = 1;
  }

  /** Units of an entry order, or 0 where the account does not let it be. */
  private admitted(row: number, asked: 1 | -1, equity: number): number {
    const { leg, account, log } = this;
    const { plan, market } = leg;
    const { spec } = market;
    const { rules } = account;
    const price = market.bars.close[row];
    const mode = leg.sizingMode;
    if (price <= leg.epsilon && mode !== "units" && mode !== "riskPercent") return 0;
    const stop = plan.stop as DistancePlan | null;
    const target = plan.target as DistancePlan | null;
    if (stop !== null && stop.scale !== null && Number.isNaN(stop.scale[row])) return 0;
    if (target !== null && target.scale !== null && Number.isNaN(target.scale[row])) return 0;
    const risk = mode === "riskPercent" && stop !== null ? distanceAt(stop, price, row, NaN) : NaN;
    if (mode === "riskPercent" && !(risk > leg.epsilon)) return 0;
    const range = plan.sizingAtr === null ? NaN : plan.sizingAtr[row];
    if (mode === "atrPercent" && !(range > leg.epsilon)) return 0;
    const units = stepped(unroundedUnits(leg, price, risk, range, rules.capital, equity), spec.unitStep);
    if (tooFew(units, spec)) return 0;
    // what leaves before the entry fills ties nothing up
    const opposite = leg.side === -asked && leg.due === 0 ? leg.margin(log.units[leg.open[0]], leg.lastClose, rules.leverage) : 0;
    const perUnit = leg.margin(1, price, rules.leverage);
    const free = equity + 1e-9 * Math.abs(equity);
    const after = Math.max(units * perUnit, opposite);
    if (after <= free || after <= opposite * (1 + 1e-9)) return units;
    if (rules.skipOnLackOfMargin) return 0;
    const reduced = stepped(Math.max(opposite <= free ? free / perUnit : 0, opposite / perUnit, 0), spec.unitStep);
    return tooFew(reduced, spec) ? 0 : reduced;
  }

  private leave(trade: number, price: number, slipped: boolean, reason: number, atClose: boolean): void {
    const { leg } = this;
    let recorded = slipped ? price - leg.side * leg.slip : price;
    if (this.account.rules.roundToTick) recorded = nearestTick(recorded, leg.market.spec.tick, -leg.side as 1 | -1);
    this.record(trade, recorded, slipped, reason, atClose);
  }

  private record(trade: number, recorded: number, slipped: boolean, reason: number, atClose: boolean): void {
    const { leg, log, account } = this;
    const units = log.units[trade];
    const gross = log.close(trade, leg.row, recorded, reason, atClose, leg.pointValue);
    account.balance += gross;
    this.charge(trade, units, recorded, slipped);
    leg.open.length = 0;
    account.openTrades = 0;
    leg.side = 0;
    leg.due = 0;
  }

  private charge(trade: number, units: number, price: number, slipped: boolean): void {
    const commission = this.account.tally.fill(this.leg, units, price, slipped);
    this.log.costs[trade] += commission;
    this.account.balance -= commission;
  }
}
