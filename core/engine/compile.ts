import { parseTimeframe, type Timeframe } from "#core/bars";
import type { Distance, DocumentProblem, Figure, Parameter, Side, Strategy } from "#core/documents";
import {
  checkRule,
  extraNames,
  nameFault,
  otherSymbols,
  type Formula,
  type Kind,
  type ParameterValues,
  type RuleProblem,
  type Scope,
} from "#core/rules";

/** A problem of a strategy; where it lies inside a formula, `rule` has the place in its text. */
export interface StrategyProblem extends DocumentProblem {
  rule?: RuleProblem;
}

export interface CompiledSide {
  enter: Formula | null;
  enterAtClose: boolean;
  exit: Formula | null;
  exitAtClose: boolean;
}

export interface CompiledDistance {
  unit: "points" | "ticks" | "percent" | "atr" | "r";
  value: Figure;
  period: Figure;
}

/** A strategy whose formulas are checked; what depends on parameters is still open. */
export interface Compiled {
  strategy: Strategy;
  timeframe: Timeframe;
  long: CompiledSide | null;
  short: CompiledSide | null;
  stop: CompiledDistance | null;
  target: CompiledDistance | null;
  maxBarsHeld: Figure | null;
  priority: Formula | null;
  entriesAtOnce: number;
  onOpposite: "reverse" | "close" | "ignore";
  /** parameters and variants at the values that the strategy holds */
  values: ParameterValues;
  /** extra series that its rules name */
  extras: string[];
  /** symbols of the other markets that its rules look at */
  others: string[];
  /** names that an optimization can vary, with their kind and (for variants) how many there are */
  variable: Map<string, { kind: "whole" | "number" | "yesNo" | "variant"; variants?: number }>;
}

export type CompileResult = { value: Compiled; problems: [] } | { value: null; problems: StrategyProblem[] };

/** The number behind a figure: itself, or its parameter's value. */
export const figureValue = (figure: Figure, values: ParameterValues): number => (typeof figure === "number" ? figure : values[figure]);

/** A parameter's value as a number: yes is 1, no is 0. */
export const parameterNumber = (value: number | boolean): number => (typeof value === "boolean" ? Number(value) : value);

/** Checks every formula, name and figure of a strategy. Gives all problems, each with its path. */
export function compileStrategy(strategy: Strategy): CompileResult {
  const problems: StrategyProblem[] = [];
  const refuse = (path: string, message: string) => void problems.push({ path, message });
  const later = (path: string, what: string) => refuse(path, `${what} isn't available in this version of Canyon yet`);

  const timeframe = parseTimeframe(strategy.timeframe);
  if (timeframe === null) refuse("timeframe", `“${strategy.timeframe}” is not a timeframe; write 1d, 1w, 1M, 1h or 5m, for example`);

  const values: Record<string, number> = {};
  const variable: Compiled["variable"] = new Map();
  const parameters = new Map<string, Parameter>();
  const definitions = new Map<string, Formula>();
  const names = new Set<string>();
  const name = (path: string, text: string) => {
    const fault = nameFault(text) ?? (names.has(text) ? `the name “${text}” is given twice` : null);
    if (fault !== null) refuse(path, fault);
    names.add(text);
  };
  (strategy.parameters ?? []).forEach((parameter, i) => {
    const path = `parameters[${i}]`;
    name(`${path}.name`, parameter.name);
    const fault = parameterFault(parameter);
    if (fault !== null) refuse(`${path}.${fault.key}`, fault.message);
    parameters.set(parameter.name, parameter);
    values[parameter.name] = parameterNumber(parameter.value);
    variable.set(parameter.name, { kind: parameter.kind });
  });
  for (const definition of strategy.definitions ?? []) if (definition.variants) values[definition.name] = definition.chosen ?? 1;

  const scope: Scope = { parameters, definitions, values, ...(timeframe === null ? {} : { timeframe }) };
  const rule = (path: string, text: string, wanted?: Kind): Formula | null => {
    const checked = checkRule(text, scope, wanted);
    for (const problem of checked.problems) problems.push({ path, message: problem.message, rule: problem });
    return checked.formula;
  };

  (strategy.definitions ?? []).forEach((definition, i) => {
    const path = `definitions[${i}]`;
    name(`${path}.name`, definition.name);
    if ((definition.rule === undefined) === (definition.variants === undefined))
      return refuse(path, "a definition has either a rule or variants");
    if (definition.rule !== undefined) {
      const formula = rule(`${path}.rule`, definition.rule);
      if (formula !== null) definitions.set(definition.name, formula);
      return;
    }
    const list = definition.variants!;
    if (list.length === 0) return refuse(`${path}.variants`, "at least one variant is needed");
    const chosen = definition.chosen ?? 1;
    if (chosen > list.length) return refuse(`${path}.chosen`, `chosen is ${chosen}, but there are only ${list.length} variants`);
    const formulas = list.map((variant, k) => rule(`${path}.variants[${k}].rule`, variant.rule));
    if (formulas.some((f) => f === null)) return;
    const variants = formulas as Formula[];
    const odd = variants.findIndex((f) => f.kind !== variants[0].kind);
    if (odd > 0) return refuse(`${path}.variants[${odd}].rule`, "all variants must be of one kind, numbers or yes/no");
    definitions.set(definition.name, {
      op: "variants",
      name: definition.name,
      variants,
      kind: variants[0].kind,
      constant: variants.every((f) => f.constant),
      fixedKey: null,
      from: 0,
      to: 0,
    });
    variable.set(definition.name, { kind: "variant", variants: list.length });
  });

  const figure = (path: string, given: Figure, check?: (x: number) => string | null) => {
    if (typeof given === "string") {
      const parameter = parameters.get(given);
      if (parameter === undefined) return refuse(path, `there is no parameter “${given}”`);
      if (parameter.kind === "yesNo") return refuse(path, `“${given}” is a yes/no; a number is needed here`);
    }
    const fault = check?.(figureValue(given, values));
    if (fault) refuse(path, fault);
  };
  const distance = (path: string, given: Distance | undefined): CompiledDistance | null => {
    if (given === undefined) return null;
    if (given.unit === "price") return (later(`${path}.unit`, "a level by a price formula"), null);
    if (given.follow) refuse(`${path}.follow`, "follow goes with a stop by a price formula only");
    if (given.unit === "r" && path === "protect.stop") refuse(`${path}.unit`, "the stop can't be measured in itself (r)");
    if (given.unit === "r" && strategy.protect?.stop === undefined) refuse(`${path}.unit`, "r needs a stop loss");
    figure(`${path}.value`, given.value, (x) => (x > 0 ? null : "value must be above 0"));
    const period = given.period ?? 14;
    figure(`${path}.period`, period, periodFault);
    return { unit: given.unit, value: given.value, period };
  };
  const side = (path: "long" | "short", given: Side | undefined): CompiledSide | null => {
    if (given === undefined) return null;
    const order = given.enter?.order;
    if (order !== undefined && order.type !== "market") later(`${path}.enter.order.type`, `a ${order.type} order to enter`);
    if (order?.type === "market" && "price" in order) refuse(`${path}.enter.order.price`, "a market order has no price");
    if (order?.type === "market" && ("workingBars" in order || "through" in order))
      refuse(`${path}.enter.order`, "workingBars and through go with stop and limit orders");
    return {
      enter: given.enter ? rule(`${path}.enter.when`, given.enter.when, "yesno") : null,
      enterAtClose: order?.type === "market" && order.at === "sameClose",
      exit: given.exit ? rule(`${path}.exit.when`, given.exit.when, "yesno") : null,
      exitAtClose: given.exit?.at === "sameClose",
    };
  };

  const long = side("long", strategy.long);
  const short = side("short", strategy.short);
  const stop = distance("protect.stop", strategy.protect?.stop);
  const target = distance("protect.target", strategy.protect?.target);
  const protect = strategy.protect ?? {};
  if (protect.trail) later("protect.trail", "a trailing stop");
  if (protect.breakeven) later("protect.breakeven", "a break-even stop");
  if (protect.exitAt) later("protect.exitAt", "an exit at a time of day");
  if (protect.exitWeekday) later("protect.exitWeekday", "an exit on a weekday");
  const maxBarsHeld = protect.maxBarsHeld ?? null;
  if (maxBarsHeld !== null) {
    const least = long?.enterAtClose || short?.enterAtClose ? 1 : 0;
    figure("protect.maxBarsHeld", maxBarsHeld, (x) =>
      Number.isInteger(x) && x >= least
        ? null
        : `maxBarsHeld must be a whole number, at least ${least}${least ? " with an entry at the same close" : ""}`,
    );
  }
  const { sizing } = strategy;
  if (sizing.mode === "equalShare") {
    if (sizing.value !== undefined)
      refuse("sizing.value", "equalShare takes no value; it divides the equity by the run settings' marketLimit");
  } else if (sizing.value === undefined) refuse("sizing.value", `${sizing.mode} needs a value`);
  else figure("sizing.value", sizing.value, (x) => (x > 0 ? null : "value must be above 0"));
  if (sizing.period !== undefined) figure("sizing.period", sizing.period, periodFault);
  if (sizing.mode === "riskPercent" && strategy.protect?.stop === undefined)
    refuse("sizing.mode", "riskPercent needs a stop loss to measure the risk by");
  const priority = strategy.priority === undefined ? null : rule("priority", strategy.priority, "number");

  if (problems.length > 0) return { value: null, problems };
  const formulas = [long?.enter, long?.exit, short?.enter, short?.exit, priority].filter(
    (formula) => formula !== null && formula !== undefined,
  );
  return {
    value: {
      extras: [...new Set(formulas.flatMap(extraNames))],
      others: [...new Set(formulas.flatMap(otherSymbols))],
      strategy,
      timeframe: timeframe!,
      long,
      short,
      stop,
      target,
      maxBarsHeld,
      priority,
      entriesAtOnce: strategy.entriesAtOnce ?? 1,
      onOpposite: strategy.onOpposite ?? "reverse",
      values,
      variable,
    },
    problems: [],
  };
}

const periodFault = (x: number): string | null => (Number.isInteger(x) && x >= 1 ? null : "period must be a whole number, at least 1");

/** What is wrong with a parameter's figures, with the key that is at fault. */
export function parameterFault(parameter: Parameter): { key: string; message: string } | null {
  const { kind, value, min, max, step } = parameter;
  if (kind === "yesNo") return typeof value === "boolean" ? null : { key: "value", message: "value must be true or false for a yes/no" };
  if (typeof value !== "number") return { key: "value", message: "value must be a number" };
  if (kind === "whole")
    for (const [key, x] of Object.entries({ value, min, max, step }))
      if (x !== undefined && !Number.isInteger(x))
        return { key, message: `${key} must be whole for a whole-number parameter; here it is ${x}` };
  if (min !== undefined && max !== undefined && min > max) return { key: "min", message: `min, ${min}, is above max, ${max}` };
  return null;
}
