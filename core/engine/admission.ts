import type { MarketSpec } from "#core/bars";
import type { EventKind } from "#core/documents";
import type { Leg } from "./leg";
import { distanceAt, missingDistance, signalLevels, type SignalLevels } from "./levels";
import type { AccountRules } from "./prepare";
import { toTick } from "./ticks";
import type { TradeLog } from "./trade-log";

/** What became of an entry signal: the order's units, price and levels, or the event that names why there is none. */
export type Admission =
  { units: number; price: number; levels: SignalLevels; reducedFrom: number | null } | { refused: EventKind; detail: string };

/** Units that a leg's sizing asks for, before rounding; `risk` and `range` in price, for the modes that divide by them. */
export function unroundedUnits(leg: Leg, price: number, risk: number, range: number, capital: number, equity: number): number {
  const { member, plan, pointValue } = leg;
  const weight = leg.weight();
  const base = (leg.sizesByCapital ? capital : equity) * weight;
  const value = plan.sizingValue;
  switch (leg.sizingMode) {
    case "units":
      return value * weight;
    case "cash":
      return (value * weight) / (price * pointValue);
    case "equityPercent":
      return (base * value) / 100 / (price * pointValue);
    case "riskPercent":
      return (base * value) / 100 / (risk * pointValue);
    case "atrPercent":
      return (base * value) / 100 / (range * pointValue);
    case "equalShare":
      return base / member.marketLimit! / (price * pointValue);
  }
}

/** Units go down to a multiple of the step, after adding 1e-9 of a step. */
export const stepped = (units: number, step: number): number => Math.floor(units / step + 1e-9) * step;

export const tooFew = (units: number, spec: MarketSpec): boolean => units < spec.minUnits - 1e-9 * spec.unitStep;

/**
 * Checks an entry signal of a leg at its close: room, price, distance, size, margin, in this order.
 * `equity` is the account's at this close, open positions marked.
 */
export function admit(leg: Leg, side: 1 | -1, legs: readonly Leg[], log: TradeLog, account: AccountRules, equity: number): Admission {
  const { member, plan, market } = leg;
  const { spec } = market;
  const row = leg.row;
  const { type, atClose, price: formula } = leg.sidePlan(side);

  if (member.marketLimit !== null) {
    let held = 1;
    for (const other of legs)
      if (other !== leg && other.member === member && (other.orders.length > 0 || (other.side !== 0 && !other.leaves(atClose)))) held++;
    if (held > member.marketLimit) return { refused: "marketLimit", detail: `no room: ${member.marketLimit} markets are held already` };
  }

  let price = market.bars.close[row];
  if (type !== "market") {
    price = formula!(row);
    if (price !== price) return { refused: "noPrice", detail: `the ${type} order's price does not exist yet` };
    // away from the market: a buy stop and a sell limit up, a sell stop and a buy limit down
    if (account.roundToTick) price = toTick(price, spec.tick, (type === "stop") === (side === 1) ? 1 : -1);
  }
  const mode = leg.sizingMode;
  if (price <= leg.epsilon && mode !== "units" && mode !== "riskPercent")
    return { refused: "badPrice", detail: `${mode} needs a price above 0; it is ${price}` };

  const levels = signalLevels(leg, row);
  const missing = missingDistance(leg, row, levels);
  if (missing !== null) return { refused: "noDistance", detail: missing };
  let risk = NaN;
  if (mode === "riskPercent") {
    const { stop } = plan;
    if (stop?.unit === "price") {
      const level = account.roundToTick ? toTick(levels.stop, spec.tick, -side as 1 | -1) : levels.stop;
      risk = side * (price - level);
    } else if (stop !== null) risk = distanceAt(stop, price, row, NaN);
    if (!(risk > leg.epsilon)) return { refused: "noDistance", detail: "the stop's distance from the price is not above 0" };
  }
  const range = plan.sizingAtr === null ? NaN : plan.sizingAtr[row];
  if (mode === "atrPercent" && !(range > leg.epsilon)) return { refused: "noDistance", detail: "the atr does not exist yet or is 0" };

  const raw = unroundedUnits(leg, price, risk, range, account.capital, equity);
  const units = stepped(raw, spec.unitStep);
  if (tooFew(units, spec)) return { refused: "tooSmall", detail: `${raw.toFixed(4)} units come to less than ${spec.minUnits}` };

  let others = 0;
  for (const other of legs)
    if (other !== leg)
      others += Math.max(sideMargin(other, 1, log, account.leverage, atClose), sideMargin(other, -1, log, account.leverage, atClose));
  const own = sideMargin(leg, side, log, account.leverage, atClose, side);
  const opposite = sideMargin(leg, -side as 1 | -1, log, account.leverage, atClose);
  const perUnit = leg.margin(1, price, account.leverage);
  const free = equity + 1e-9 * Math.abs(equity) - others;
  const before = Math.max(own, opposite);
  const after = Math.max(own + units * perUnit, opposite);
  if (after <= free || after <= before * (1 + 1e-9)) return { units, price, levels, reducedFrom: null };
  const shortfall = `${Math.round(others + after)} of margin would be in use with an equity of ${Math.round(equity)}`;
  if (account.skipOnLackOfMargin) return { refused: "noMargin", detail: shortfall };
  const fits = Math.max(opposite <= free ? (free - own) / perUnit : 0, (before - own) / perUnit, 0);
  const reduced = stepped(fits, spec.unitStep);
  if (tooFew(reduced, spec)) return { refused: "noMargin", detail: shortfall };
  return { units: reduced, price, levels, reducedFrom: units };
}

/**
 * Margin of one side of a leg: open positions at the last close, waiting and working entries at their price. What leaves
 * before an entry formed now fills does not count, nor does the order of the side that a new one would replace.
 */
function sideMargin(leg: Leg, side: 1 | -1, log: TradeLog, leverage: number, atClose: boolean, replaced: 0 | 1 | -1 = 0): number {
  let used = 0;
  if (leg.side === side && !leg.leaves(atClose))
    for (const trade of leg.open) used += leg.margin(log.units[trade], leg.lastClose, leverage);
  if (side !== replaced) for (const order of leg.orders) if (order.side === side) used += leg.margin(order.units, order.price, leverage);
  return used;
}
