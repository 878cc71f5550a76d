import { parseClock, type Timeframe } from "#core/bars";
import type { Distance, Figure, Protect } from "#core/documents";
import type { Formula } from "#core/rules";

/** How far from an entry something lies; what depends on parameters is still open. */
export interface CompiledDistance {
  unit: "points" | "ticks" | "percent" | "atr" | "r";
  value: Figure;
  period: Figure;
}

/** A level by a formula instead of a distance; `follow`: it is looked at again at every close. */
export interface CompiledLevel {
  unit: "price";
  level: Formula;
  follow: boolean;
}

export interface CompiledTrail extends CompiledDistance {
  activateAfter: Figure;
}

export interface CompiledBreakeven extends Omit<CompiledDistance, "value"> {
  trigger: Figure;
  offset: Figure;
}

export interface CompiledProtect {
  stop: CompiledDistance | CompiledLevel | null;
  target: CompiledDistance | CompiledLevel | null;
  trail: CompiledTrail | null;
  breakeven: CompiledBreakeven | null;
  maxBarsHeld: Figure | null;
  /** minutes after midnight */
  exitAt: number | null;
  exitWeekday: { weekday: number; time: number } | null;
}

/** What the checks of a strategy's parts need of the whole: to refuse, to check a figure, to read a formula. */
export interface Checks {
  refuse: (path: string, message: string) => void;
  figure: (path: string, given: Figure, fault?: (x: number) => string | null) => void;
  formula: (path: string, text: string) => Formula | null;
}

const above0 = (key: string) => (x: number) => (x > 0 ? null : `${key} must be above 0`);
const notBelow0 = (key: string) => (x: number) => (x >= 0 ? null : `${key} must not be negative`);
export const periodFault = (x: number): string | null =>
  Number.isInteger(x) && x >= 1 ? null : "period must be a whole number, at least 1";

/** Checks the protective exits, and the exits by bars and by the clock. `entersAtClose`: whether any side enters at the same close. */
export function compileProtect(protect: Protect, entersAtClose: boolean, timeframe: Timeframe | null, checks: Checks): CompiledProtect {
  const { refuse, figure } = checks;
  const measured = (path: string, unit: Distance["unit"], period: Figure | undefined): Omit<CompiledDistance, "value"> | null => {
    if (unit === "price") {
      refuse(`${path}.unit`, "only a stop and a target can be a price; measure this one in points, ticks, percent, atr or r");
      return null;
    }
    if (unit === "r" && protect.stop === undefined) refuse(`${path}.unit`, "r needs a stop loss");
    const bars = period ?? 14;
    figure(`${path}.period`, bars, periodFault);
    return { unit, period: bars };
  };
  const distance = (key: "stop" | "target"): CompiledDistance | CompiledLevel | null => {
    const given = protect[key];
    const path = `protect.${key}`;
    if (given === undefined) return null;
    if (given.follow && !(key === "stop" && given.unit === "price"))
      refuse(`${path}.follow`, "follow goes with a stop by a price formula only");
    if (given.unit === "price") {
      const level = checks.formula(`${path}.value`, String(given.value));
      return level && { unit: "price", level, follow: given.follow === true };
    }
    if (given.unit === "r" && key === "stop") refuse(`${path}.unit`, "the stop can't be measured in itself (r)");
    figure(`${path}.value`, given.value, above0("value"));
    const unit = measured(path, given.unit, given.period);
    return unit && { ...unit, value: given.value };
  };
  const stop = distance("stop");
  const target = distance("target");

  let trail: CompiledTrail | null = null;
  if (protect.trail !== undefined) {
    const { unit, value, period, activateAfter = 0 } = protect.trail;
    figure("protect.trail.value", value, above0("value"));
    figure("protect.trail.activateAfter", activateAfter, notBelow0("activateAfter"));
    const made = measured("protect.trail", unit, period);
    trail = made && { ...made, value, activateAfter };
  }
  let breakeven: CompiledBreakeven | null = null;
  if (protect.breakeven !== undefined) {
    const { unit, trigger, period, offset = 0 } = protect.breakeven;
    figure("protect.breakeven.trigger", trigger, notBelow0("trigger"));
    figure("protect.breakeven.offset", offset);
    const made = measured("protect.breakeven", unit, period);
    breakeven = made && { ...made, trigger, offset };
  }

  const maxBarsHeld = protect.maxBarsHeld ?? null;
  if (maxBarsHeld !== null) {
    const least = entersAtClose ? 1 : 0;
    figure("protect.maxBarsHeld", maxBarsHeld, (x) =>
      Number.isInteger(x) && x >= least
        ? null
        : `maxBarsHeld must be a whole number, at least ${least}${least ? " with an entry at the same close" : ""}`,
    );
  }
  const clock = (path: string, text: string): number => {
    const minutes = parseClock(text);
    if (minutes === null) refuse(path, `“${text}” is not a time of day; write 15:55, for example`);
    return minutes ?? 0;
  };
  const coarse = timeframe !== null && (timeframe.unit === "week" || timeframe.unit === "month");
  if (coarse && protect.exitAt !== undefined) refuse("protect.exitAt", "an exit at a time of day needs daily or finer bars");
  if (coarse && protect.exitWeekday !== undefined) refuse("protect.exitWeekday", "an exit on a weekday needs daily or finer bars");
  const exitAt = protect.exitAt === undefined ? null : clock("protect.exitAt", protect.exitAt);
  let exitWeekday: CompiledProtect["exitWeekday"] = null;
  if (protect.exitWeekday !== undefined) {
    const { weekday, time } = protect.exitWeekday;
    if (weekday < 1 || weekday > 7) refuse("protect.exitWeekday.weekday", "weekday must be from 1 (Monday) to 7");
    exitWeekday = { weekday, time: clock("protect.exitWeekday.time", time) };
  }
  return { stop, target, trail, breakeven, maxBarsHeld, exitAt, exitWeekday };
}
