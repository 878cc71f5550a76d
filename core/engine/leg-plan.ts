import { atr } from "#core/indicators";
import { LiveFormulas, restsOnPosition, type Formula, type ParameterValues, type Reading } from "#core/rules";
import { figureValue, type Compiled, type CompiledSide } from "./compile";
import type { CompiledDistance, CompiledLevel } from "./compile-protect";
import type { RunMarket } from "./prepare";
import { rulesOf, signalsOf, type Signals } from "./signals";
import { clockMarks, type ClockMarks } from "./time-exits";

/** What one (member, market) needs in the bar loop, under given parameter values. */
export interface LegPlan {
  /** of the rules that don't rest on the position */
  signals: Signals;
  /** the rules that do; null where there are none */
  live: LiveRules | null;
  long: OrderPlan;
  short: OrderPlan;
  stop: DistancePlan | LevelPlan | null;
  target: DistancePlan | LevelPlan | null;
  trail: { distance: DistancePlan; activateAfter: DistancePlan } | null;
  breakeven: { trigger: DistancePlan; offset: DistancePlan } | null;
  /** whether the stop-kind level may change while a trade is open */
  moving: boolean;
  maxBarsHeld: number;
  /** what the clock asks of each bar; null without exits by the clock */
  marks: ClockMarks | null;
  sizingValue: number;
  sizingAtr: Float64Array | null;
  priority: Reading | null;
}

export interface OrderPlan {
  type: "market" | "stop" | "limit";
  atClose: boolean;
  price: Reading | null;
  workingBars: number;
  through: boolean;
  exitAtClose: boolean;
}

export interface DistancePlan {
  unit: "points" | "percent" | "r";
  value: number;
  /** where the distance is value × this column on the signal bar */
  scale: Float64Array | null;
}

export interface LevelPlan {
  unit: "price";
  level: Reading;
  follow: boolean;
}

/** Rules and formulas that are evaluated close by close. */
export interface LiveRules {
  formulas: LiveFormulas;
  /** a reading and the signal's bit that it sets */
  rules: { bit: number; yes: Reading }[];
  /** every close must be looked at even when flat: an entry rule rests on the position, or something remembers */
  always: boolean;
}

const NO_ORDER: OrderPlan = { type: "market", atClose: false, price: null, workingBars: Infinity, through: false, exitAtClose: false };

/** Computes a leg's columns; what other trials already needed is shared. Throws a SettingError where a length has no sense. */
export function planLeg(compiled: Compiled, market: RunMarket, values: ParameterValues): LegPlan {
  const { store, bars, spec } = market;
  const { protect } = compiled;
  const formulas = compiled.live ? new LiveFormulas(store, values) : null;
  const reading = (formula: Formula | null): Reading | null => {
    if (formula === null) return null;
    if (formulas !== null) return formulas.read(formula);
    const column = store.column(formula, values);
    return (row) => column[row];
  };
  const range = (period: number) => store.kept(`(atr ${period})`, () => atr(bars, period, store.make(bars.length)));
  const measured = (given: Omit<CompiledDistance, "value">, figure: CompiledDistance["value"]): DistancePlan => {
    const value = figureValue(figure, values);
    if (given.unit === "ticks") return { unit: "points", value: value * spec.tick, scale: null };
    if (given.unit === "atr") return { unit: "points", value, scale: range(figureValue(given.period, values)) };
    return { unit: given.unit, value, scale: null };
  };
  const level = (given: CompiledDistance | CompiledLevel | null): DistancePlan | LevelPlan | null =>
    given === null
      ? null
      : given.unit === "price"
        ? { unit: "price", level: reading(given.level)!, follow: given.follow }
        : measured(given, given.value);
  const order = (side: CompiledSide | null): OrderPlan => {
    if (side === null) return NO_ORDER;
    const { exitAtClose } = side;
    return side.order.type === "market"
      ? { ...NO_ORDER, atClose: side.order.atClose, exitAtClose }
      : { ...side.order, price: reading(side.order.price), atClose: false, exitAtClose };
  };

  const rules = rulesOf(compiled.long, compiled.short);
  const lives = rules.map((rule) => formulas !== null && rule !== null && restsOnPosition(rule));
  const signals = signalsOf(
    rules.map((rule, i) => (lives[i] ? null : rule)),
    store,
    values,
  );
  const { trail, breakeven } = protect;
  const { sizing } = compiled.strategy;
  const stop = level(protect.stop);
  const liveRules = rules.flatMap((rule, i) => (lives[i] ? [{ bit: 1 << i, yes: formulas!.read(rule!) }] : []));
  const asks = liveRules.some(({ bit }) => bit === 1 || bit === 4);
  return {
    signals,
    live: formulas === null ? null : { formulas, rules: liveRules, always: asks || formulas.remembers },
    long: order(compiled.long),
    short: order(compiled.short),
    stop,
    target: level(protect.target),
    trail: trail === null ? null : { distance: measured(trail, trail.value), activateAfter: measured(trail, trail.activateAfter) },
    breakeven:
      breakeven === null ? null : { trigger: measured(breakeven, breakeven.trigger), offset: measured(breakeven, breakeven.offset) },
    moving: trail !== null || breakeven !== null || (stop?.unit === "price" && stop.follow),
    maxBarsHeld: protect.maxBarsHeld === null ? Infinity : figureValue(protect.maxBarsHeld, values),
    marks: marksOf(compiled, market),
    sizingValue: sizing.value === undefined ? NaN : figureValue(sizing.value, values),
    sizingAtr: sizing.mode === "atrPercent" ? range(figureValue(sizing.period ?? 14, values)) : null,
    priority: reading(compiled.priority),
  };
}

const knownMarks = new WeakMap<RunMarket, Map<string, ClockMarks>>();

/** The clock's marks on a market's bars; the same for every trial. */
function marksOf({ protect }: Compiled, market: RunMarket): ClockMarks | null {
  const exits = { time: protect.exitAt, weekday: protect.exitWeekday };
  if (exits.time === null && exits.weekday === null) return null;
  let kinds = knownMarks.get(market);
  if (kinds === undefined) knownMarks.set(market, (kinds = new Map()));
  const key = JSON.stringify(exits);
  let marks = kinds.get(key);
  if (marks === undefined) kinds.set(key, (marks = clockMarks(market.bars, market.dates, market.calendar, market.timeframe, exits)));
  return marks;
}
