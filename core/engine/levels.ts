import type { Leg } from "./leg";
import type { DistancePlan, LevelPlan } from "./leg-plan";
import { toTick } from "./ticks";
import { AT_OPEN, BREAKEVEN, BY_LIMIT, STOP, TRAIL, type TradeLog } from "./trade-log";

/** A distance from a recorded entry price, in price; NaN where it does not exist on the signal bar. */
export function distanceAt(plan: DistancePlan, price: number, signalRow: number, stopDistance: number): number {
  if (plan.unit === "percent") return (Math.abs(price) * plan.value) / 100;
  if (plan.unit === "r") return plan.value * stopDistance;
  return plan.scale === null ? plan.value : plan.value * plan.scale[signalRow];
}

/** Levels that an entry order takes along from its signal bar, where formulas give them. */
export interface SignalLevels {
  stop: number;
  target: number;
}

const NO_LEVELS: SignalLevels = { stop: NaN, target: NaN };

/** Reads the price levels at a signal's close; NaN where there is none. */
export function signalLevels({ plan }: Leg, row: number): SignalLevels {
  const [stop, target] = [plan.stop, plan.target];
  if (stop?.unit !== "price" && target?.unit !== "price") return NO_LEVELS;
  return { stop: stop?.unit === "price" ? stop.level(row) : NaN, target: target?.unit === "price" ? target.level(row) : NaN };
}

const lacks = (part: DistancePlan | LevelPlan | null, level: number, row: number): boolean =>
  part !== null && (part.unit === "price" ? level !== level : part.scale !== null && part.scale[row] !== part.scale[row]);

/** Whether every distance and level of a leg exists at a signal; what is missing, in words, or null. */
export function missingDistance({ plan }: Leg, row: number, levels: SignalLevels): string | null {
  if (lacks(plan.stop, levels.stop, row)) return "the stop's distance or level does not exist yet";
  if (lacks(plan.target, levels.target, row)) return "the target's distance or level does not exist yet";
  if (plan.trail !== null && lacks(plan.trail.distance, NaN, row)) return "the trailing stop's distance does not exist yet";
  if (plan.breakeven !== null && lacks(plan.breakeven.trigger, NaN, row)) return "the break-even's trigger does not exist yet";
  return null;
}

/** A trade's initial levels and the distance of its stop; NaN where there is none. */
export interface InitialLevels {
  stop: number;
  stopDistance: number;
  target: number;
}

/** The levels that a trade of a side gets which enters at a price; `levels`: what formulas gave at its signal. */
export function initialLevels(
  leg: Leg,
  side: 1 | -1,
  entry: number,
  signalRow: number,
  levels: SignalLevels,
  round: boolean,
): InitialLevels {
  const { plan } = leg;
  const { tick } = leg.market.spec;
  const away = (level: number, sign: 1 | -1): number => (round ? toTick(level, tick, sign) : level);
  // a long's stop is a stop to sell and goes down to a tick, its target a limit to sell and goes up; a short's mirror them
  const stopSide = -side as 1 | -1;
  let stop = NaN;
  let stopDistance = NaN;
  if (plan.stop !== null) {
    if (plan.stop.unit === "price") {
      stop = away(levels.stop, stopSide);
      stopDistance = Math.abs(entry - stop);
    } else {
      stopDistance = distanceAt(plan.stop, entry, signalRow, NaN);
      stop = away(entry - side * stopDistance, stopSide);
    }
  }
  let target = NaN;
  if (plan.target !== null)
    target = away(
      plan.target.unit === "price" ? levels.target : entry + side * distanceAt(plan.target, entry, signalRow, stopDistance),
      side,
    );
  return { stop, stopDistance, target };
}

/** Fixes a new trade's levels from its recorded entry. */
export function setLevels(leg: Leg, log: TradeLog, trade: number, signalRow: number, levels: SignalLevels, round: boolean): void {
  const { plan } = leg;
  const entry = log.entryPrice[trade];
  const { stop, stopDistance, target } = initialLevels(leg, log.side[trade] as 1 | -1, entry, signalRow, levels, round);
  log.stop[trade] = stop;
  log.target[trade] = target;
  log.stopReason[trade] = STOP;
  log.stopDistance[trade] = round && plan.stop !== null ? Math.abs(entry - stop) : stopDistance;
  if (!plan.moving) return;
  log.ownStop[trade] = stop;
  log.best[trade] = entry;
  log.pathBest[trade] = NaN;
  log.trail[trade] = NaN;
  if (plan.trail !== null) {
    log.trailDistance[trade] = distanceAt(plan.trail.distance, entry, signalRow, stopDistance);
    log.trailAfter[trade] = distanceAt(plan.trail.activateAfter, entry, signalRow, stopDistance);
  }
  if (plan.breakeven !== null) {
    log.trigger[trade] = distanceAt(plan.breakeven.trigger, entry, signalRow, stopDistance);
    log.offset[trade] = distanceAt(plan.breakeven.offset, entry, signalRow, stopDistance);
  }
  tighten(leg, log, trade, round);
}

/** The tightest of stop, break-even and trail becomes the stop-kind level, with its reason; ties in this order. */
function tighten(leg: Leg, log: TradeLog, trade: number, round: boolean): void {
  const { plan, epsilon } = leg;
  const side = log.side[trade] as 1 | -1;
  const { tick } = leg.market.spec;
  const entry = log.entryPrice[trade];
  const best = log.best[trade];
  const gone = side * (best - entry);
  let level = log.ownStop[trade];
  let reason = STOP;
  const offer = (other: number, name: number): void => {
    const rounded = round ? toTick(other, tick, -side as 1 | -1) : other;
    if (level !== level || side * (rounded - level) > epsilon) {
      level = rounded;
      reason = name;
    }
  };
  if (plan.breakeven !== null && gone >= log.trigger[trade] - epsilon) offer(entry + side * log.offset[trade], BREAKEVEN);
  if (plan.trail !== null && gone >= log.trailAfter[trade] - epsilon) {
    const distance = plan.trail.distance.unit === "percent" ? (Math.abs(best) * plan.trail.distance.value) / 100 : log.trailDistance[trade];
    const trail = best - side * distance;
    if (!(side * (log.trail[trade] - trail) > 0)) log.trail[trade] = trail;
    offer(log.trail[trade], TRAIL);
  }
  log.stop[trade] = level;
  log.stopReason[trade] = reason;
}

/**
 * At a close, takes the bar's extremes into the levels that hold from the next bar on. The bar of the entry counts as far
 * as the price may have been there after the fill. (Entries at this very close come later and are not asked.)
 */
export function moveLevels(leg: Leg, log: TradeLog, trade: number, mode: "pessimistic" | "optimistic" | "path", round: boolean): void {
  const { plan, row } = leg;
  const side = log.side[trade];
  const { high, low } = leg.market.bars;
  let extreme = side === 1 ? high[row] : low[row];
  if (log.entryRow[trade] === row) {
    const how = log.how[trade];
    if (how === BY_LIMIT && mode === "pessimistic") extreme = NaN;
    else if (how !== AT_OPEN && mode === "path") extreme = log.pathBest[trade];
  }
  if (side * (extreme - log.best[trade]) > 0) log.best[trade] = extreme;
  if (plan.stop?.unit === "price" && plan.stop.follow) follow(leg, log, trade, round);
  tighten(leg, log, trade, round);
}

/** A stop that is looked at again: it only ever closes in. */
function follow(leg: Leg, log: TradeLog, trade: number, round: boolean): void {
  const side = log.side[trade] as 1 | -1;
  const value = (leg.plan.stop as LevelPlan).level(leg.row);
  const level = round ? toTick(value, leg.market.spec.tick, -side as 1 | -1) : value;
  if (side * (level - log.ownStop[trade]) > 0) log.ownStop[trade] = level;
}
