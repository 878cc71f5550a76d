import { formatDate } from "#core/bars";
import type { SideName } from "#core/documents";
import {
  initialLevels,
  nextSession,
  REASONS,
  simulate,
  type EntryOrder,
  type Leg,
  type PreparedRun,
  type RunMarket,
  type TradeLog,
} from "#core/engine";
import { checkRule, EMPTY_SCOPE, lookedAt, type Formula } from "#core/rules";

/** A number that a rule looks at, as it stands in the notation, and its value on the bar of the signal; null where it is missing. */
export interface RuleValue {
  text: string;
  value: number | null;
}

/** An order that waits for the next session or works on in it. */
export interface SheetOrder {
  symbol: string;
  /** null for a run of one strategy */
  member: string | null;
  purpose: "enter" | "leave";
  /** side of the position that it opens or closes */
  side: SideName;
  type: "market" | "stop" | "limit";
  /** null for a market order */
  price: number | null;
  units: number;
  /** units of the opposite side that its fill closes too; 0 without any */
  closes: number;
  /** initial stop and target if it fills at its price, or at the last close for a market order (`about`) */
  stop: number | null;
  target: number | null;
  about: boolean;
  /** date of the bar at whose close it was formed, and how many more bars it works; null: until it fills */
  formed: string;
  barsLeft: number | null;
  /** the rule that asks for it, as it stands in the strategy, and the values that it looked at */
  rule: string;
  values: RuleValue[];
}

/** A position that should be open now. */
export interface SheetPosition {
  symbol: string;
  member: string | null;
  /** number of the trade in the run */
  trade: number;
  side: SideName;
  units: number;
  entered: string;
  entryPrice: number;
  close: number;
  /** orders that protect it in the next session; null where there is none */
  stop: number | null;
  stopKind: "stop" | "breakeven" | "trail" | null;
  target: number | null;
  /** open profit after costs so far, in money, and in multiples of the initial risk (null without a stop) */
  profit: number;
  r: number | null;
  /** bars held so far, and at how many it leaves at the close; null without such an end */
  barsHeld: number;
  leavesAfterBars: number | null;
  /** what the clock ends it by; null without */
  leavesAt: string | null;
  leavesOnWeekday: { weekday: number; time: string } | null;
}

/** Up to when a market's bars are known, and its next session by its calendar. */
export interface SheetMarket {
  symbol: string;
  last: string;
  close: number;
  next: string;
}

/** What a run asks for in the next session of each of its markets. */
export interface Sheet {
  /** the last date of the run */
  date: string;
  equity: number;
  halted: boolean;
  markets: SheetMarket[];
  orders: SheetOrder[];
  positions: SheetPosition[];
}

/** The engine stopped after the last bar: what waits, what works, what is open. The run must not close at its end. */
export function sheetOf(run: PreparedRun): Sheet {
  if (run.account.closeAtEnd) throw new Error("a run that closes at its end has nothing left to ask for");
  const last = run.clock.times.length - 1;
  const sheet: Pick<Sheet, "orders" | "positions"> = { orders: [], positions: [] };
  let equity = run.account.capital;
  let balance = NaN;
  const simulation = simulate(run, {
    watch: (t, now, legs, account) => {
      if (t !== last) return;
      equity = now;
      balance = account.balance;
      for (const leg of legs) {
        sheet.orders.push(...leavingOrders(leg, account.log), ...leg.orders.map((order) => enteringOrder(leg, order, run, account.log)));
        sheet.positions.push(...leg.open.map((trade) => positionOf(leg, trade, account.log)));
      }
    },
  });
  // the engine passes over closes at which nothing was open and nothing waited
  if (Number.isNaN(balance)) equity = simulation.equity[last];
  const traded = [...new Set(run.members.flatMap((member) => member.markets))].sort((a, b) => a - b);
  return {
    date: formatDate(run.clock.dates[last]),
    equity,
    halted: simulation.halted,
    markets: traded.flatMap((m) => marketOf(run.markets[m], run.clock.dates[last])),
    ...sheet,
  };
}

function marketOf(market: RunMarket, until: number): SheetMarket[] {
  let row = market.bars.length - 1;
  while (row >= 0 && market.dates[row] > until) row--;
  if (row < 0) return [];
  const date = market.dates[row];
  return [
    {
      symbol: market.spec.symbol,
      last: formatDate(date),
      close: market.bars.close[row],
      next: nextSession(market, market.timeframe, date),
    },
  ];
}

const nameOf = (side: number): SideName => (side === 1 ? "long" : "short");
const orNull = (x: number): number | null => (Number.isNaN(x) ? null : x);
const dateAt = (leg: Leg, row: number): string => formatDate(leg.market.dates[row]);
const unitsOf = (leg: Leg, log: TradeLog): number => leg.open.reduce((sum, trade) => sum + log.units[trade], 0);

/** The order that closes a position at the next open, where its exit was decided at the last close. */
function leavingOrders(leg: Leg, log: TradeLog): SheetOrder[] {
  if (leg.due === 0 || leg.side === 0) return [];
  const { long, short, strategy } = leg.member.compiled;
  const reason = REASONS[leg.due];
  const own = leg.side === 1 ? "long" : "short";
  const other = leg.side === 1 ? "short" : "long";
  const [text, formula] =
    reason === "rule"
      ? [strategy[own]?.exit?.when, (leg.side === 1 ? long : short)?.exit]
      : reason === "opposite"
        ? [strategy[other]?.enter?.when, (leg.side === 1 ? short : long)?.enter]
        : ["the account was halted", null];
  return [
    {
      symbol: leg.market.spec.symbol,
      member: leg.member.name,
      purpose: "leave",
      side: nameOf(leg.side),
      type: "market",
      price: null,
      units: unitsOf(leg, log),
      closes: 0,
      stop: null,
      target: null,
      about: false,
      formed: dateAt(leg, leg.lastRow),
      barsLeft: null,
      rule: text ?? "",
      values: formula ? valuesOf(leg, formula, leg.lastRow) : [],
    },
  ];
}

function enteringOrder(leg: Leg, order: EntryOrder, run: PreparedRun, log: TradeLog): SheetOrder {
  const { strategy, long, short } = leg.member.compiled;
  const own = order.side === 1 ? "long" : "short";
  const formula = (order.side === 1 ? long : short)!.enter;
  const levels = initialLevels(leg, order.side, order.price, order.signalRow, order.levels, run.account.roundToTick);
  const market = order.type === "market";
  return {
    symbol: leg.market.spec.symbol,
    member: leg.member.name,
    purpose: "enter",
    side: nameOf(order.side),
    type: order.type,
    price: market ? null : order.price,
    units: order.units,
    closes: leg.side === -order.side && leg.due === 0 ? unitsOf(leg, log) : 0,
    stop: orNull(levels.stop),
    target: orNull(levels.target),
    about: market,
    formed: dateAt(leg, order.signalRow),
    barsLeft: Number.isFinite(order.barsLeft) ? order.barsLeft : null,
    rule: strategy[own]!.enter!.when,
    values: formula ? valuesOf(leg, formula, order.signalRow) : [],
  };
}

function positionOf(leg: Leg, trade: number, log: TradeLog): SheetPosition {
  const { protect } = leg.member.compiled;
  const { protect: written } = leg.member.compiled.strategy;
  const profit = log.side[trade] * log.units[trade] * leg.pointValue * (leg.lastClose - log.entryPrice[trade]) - log.costs[trade];
  const risk = log.units[trade] * leg.pointValue * log.stopDistance[trade];
  const kind = REASONS[log.stopReason[trade]] as SheetPosition["stopKind"];
  return {
    symbol: leg.market.spec.symbol,
    member: leg.member.name,
    trade: trade + 1,
    side: nameOf(log.side[trade]),
    units: log.units[trade],
    entered: dateAt(leg, log.entryRow[trade]),
    entryPrice: log.entryPrice[trade],
    close: leg.lastClose,
    stop: orNull(log.stop[trade]),
    stopKind: Number.isNaN(log.stop[trade]) ? null : kind,
    target: orNull(log.target[trade]),
    profit,
    r: risk > 0 ? profit / risk : null,
    barsHeld: leg.lastRow - log.entryRow[trade],
    leavesAfterBars: Number.isFinite(leg.plan.maxBarsHeld) ? leg.plan.maxBarsHeld : null,
    leavesAt: protect.exitAt === null ? null : (written!.exitAt ?? null),
    leavesOnWeekday: protect.exitWeekday === null ? null : (written!.exitWeekday ?? null),
  };
}

/** The close and every number that a rule looks at, on a bar. */
function valuesOf(leg: Leg, rule: Formula, row: number): RuleValue[] {
  const { compiled } = leg.member;
  const { store, bars } = leg.market;
  const out: RuleValue[] = [{ text: "close", value: bars.close[row] }];
  for (const text of lookedAt([rule], compiled.values)) {
    const { formula } = checkRule(text, EMPTY_SCOPE);
    if (formula !== null) out.push({ text, value: orNull(store.column(formula, compiled.values)[row]) });
  }
  return out;
}
