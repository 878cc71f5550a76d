import type { Distance, Figure, Order, Protect, Side, Sizing, Strategy } from "#core/documents";
import { WEEKDAYS } from "./phrases";
import { textInWords, timeframeInWords } from "./sentence";

/** A strategy in plain English, for printing and for review: headings with sentences. */
export interface Statement {
  heading: string;
  lines: string[];
}

/** Names that stand for settings: parameters, since definitions of settings alone are rare enough to read as series. */
export const settingNames = (strategy: Strategy): ReadonlySet<string> =>
  new Set((strategy.parameters ?? []).map((parameter) => parameter.name));

const bars = (figure: Figure): string => `${figure} ${figure === 1 ? "bar" : "bars"}`;

/** A distance as it is said: 2 × ATR of 14 bars, 3 % of the entry price. */
export function distanceInWords(unit: Distance["unit"], value: Figure, period: Figure | undefined): string {
  switch (unit) {
    case "points":
      return `${value} points`;
    case "ticks":
      return `${value} ticks`;
    case "percent":
      return `${value} % of the entry price`;
    case "atr":
      return `${value} × ATR of ${bars(period ?? 14)}`;
    case "r":
      return `${value} × the stop's distance`;
    case "price":
      return String(value);
  }
}

export function orderInWords(order: Order | undefined, side: "long" | "short", words: (rule: string) => string): string {
  const buy = side === "long" ? "buy" : "sell short";
  if (order === undefined || order.type === "market")
    return `${buy} at ${order?.at === "sameClose" ? "this same close" : "the following open"}`;
  const life = `working for ${bars(order.workingBars ?? 1)}`;
  const price = words(order.price ?? "");
  if (order.type === "stop") return `${buy} with a stop order at ${price}, ${life}`;
  return `${buy} with a limit order at ${price}, ${life}${order.through === false ? ", filled when touched" : ", filled only when the price goes beyond it"}`;
}

/** The protective exits and the exits by bars and the clock, a sentence each. */
export function protectInWords(protect: Protect, words: (rule: string) => string): string[] {
  const lines: string[] = [];
  const level = (name: string, given: Distance | undefined) => {
    if (given === undefined) return;
    const where =
      given.unit === "price"
        ? `at ${words(String(given.value))}${given.follow ? ", looked at again at every close and only ever closer" : ", as it is at the signal"}`
        : `${distanceInWords(given.unit, given.value, given.period)} from the entry`;
    lines.push(`${name} ${where}.`);
  };
  level("Stop loss", protect.stop);
  level("Target", protect.target);
  if (protect.trail) {
    const { unit, value, period, activateAfter } = protect.trail;
    const once =
      activateAfter !== undefined && activateAfter !== 0 ? `, once the trade is ${distanceInWords(unit, activateAfter, period)} ahead` : "";
    const far = unit === "percent" ? `${value} %` : distanceInWords(unit, value, period);
    lines.push(`Trailing stop ${far} from the best price since the entry${once}.`);
  }
  if (protect.breakeven) {
    const { unit, trigger, period, offset } = protect.breakeven;
    const beyond = offset !== undefined && offset !== 0 ? ` plus ${distanceInWords(unit, offset, period)}` : "";
    lines.push(`Stop to the entry price${beyond} once the trade is ${distanceInWords(unit, trigger, period)} ahead.`);
  }
  if (protect.maxBarsHeld !== undefined) lines.push(`Exit at the close after ${bars(protect.maxBarsHeld)}.`);
  if (protect.exitAt !== undefined) lines.push(`Exit at ${protect.exitAt} of every session.`);
  if (protect.exitWeekday !== undefined)
    lines.push(`Exit on ${WEEKDAYS[protect.exitWeekday.weekday - 1] ?? "a weekday"} at ${protect.exitWeekday.time}.`);
  return lines;
}

export function sizingInWords(sizing: Sizing): string {
  const base = sizing.base === "initial" ? "the starting capital" : "the equity";
  switch (sizing.mode) {
    case "units":
      return `${sizing.value} units an entry.`;
    case "cash":
      return `Units worth ${sizing.value} of account money an entry.`;
    case "equityPercent":
      return `Units worth ${sizing.value} % of ${base} an entry.`;
    case "riskPercent":
      return `As many units as lose ${sizing.value} % of ${base} at the initial stop.`;
    case "atrPercent":
      return `As many units as move by ${sizing.value} % of ${base} with one ATR of ${bars(sizing.period ?? 14)}.`;
    case "equalShare":
      return `Units worth ${base} divided by the number of markets that may be held at once.`;
  }
}

const OPPOSITE = {
  reverse: "A signal of the other side closes the position and opens the other one.",
  close: "A signal of the other side only closes the position.",
  ignore: "A signal of the other side does nothing while a position is open.",
};

/** The whole strategy in plain English. */
export function strategyStatement(strategy: Strategy): Statement[] {
  const settings = settingNames(strategy);
  const words = (rule: string) => textInWords(rule, settings);
  const out: Statement[] = [];
  const add = (heading: string, lines: (string | null)[]) => {
    const said = lines.filter((line) => line !== null && line !== "") as string[];
    if (said.length > 0) out.push({ heading, lines: said });
  };
  add("Idea", [strategy.notes ?? null]);
  add("Bars", [`${capital(timeframeInWords(strategy.timeframe))} bars; rules are looked at at every close.`]);
  add(
    "Parameters",
    (strategy.parameters ?? []).map(
      ({ name, value, about }) => `${name} is ${value === true ? "yes" : value === false ? "no" : value}${about ? `: ${about}` : ""}.`,
    ),
  );
  add(
    "Definitions",
    (strategy.definitions ?? []).map(({ name, rule, variants, chosen }) => {
      if (variants === undefined) return `${name} means: ${words(rule ?? "")}.`;
      const own = variants[(chosen ?? 1) - 1];
      return `${name} is one of ${variants.length} variants, now ${own?.label ? `“${own.label}”, ` : ""}${own ? words(own.rule) : "none"}.`;
    }),
  );
  const enter = (side: "long" | "short", given: Side | undefined) =>
    given?.enter === undefined
      ? null
      : `${capital(side)}: when ${words(given.enter.when)}, ${orderInWords(given.enter.order, side, words)}.`;
  const exit = (side: "long" | "short", given: Side | undefined) =>
    given?.exit === undefined
      ? null
      : `${capital(side)}: when ${words(given.exit.when)}, at ${given.exit.at === "sameClose" ? "this same close" : "the following open"}.`;
  const entries = strategy.entriesAtOnce ?? 1;
  add("Enter", [
    enter("long", strategy.long),
    enter("short", strategy.short),
    entries > 1 ? `Up to ${entries} entries of one side may be open at once in one market.` : null,
    strategy.priority ? `Where there is not room for all: the highest ${words(strategy.priority)} first.` : null,
  ]);
  add("Exit", [
    exit("long", strategy.long),
    exit("short", strategy.short),
    strategy.long?.enter && strategy.short?.enter ? OPPOSITE[strategy.onOpposite ?? "reverse"] : null,
    ...protectInWords(strategy.protect ?? {}, words),
  ]);
  add("Size", [sizingInWords(strategy.sizing)]);
  return out;
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
