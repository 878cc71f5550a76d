import { parseTimeframe, type Timeframe } from "#core/bars";
import type { DocumentProblem, Figure, Order, Parameter, Side, Strategy } from "#core/documents";
import {
  checkRule,
  extraNames,
  nameFault,
  otherSymbols,
  restsOnPosition,
  type Formula,
  type Kind,
  type ParameterValues,
  type RuleProblem,
  type Scope,
} from "#core/rules";
import { compileProtect, periodFault, type CompiledProtect } from "./compile-protect";

/** A problem of a strategy; where it lies inside a formula, `rule` has the place in its text. */
export interface StrategyProblem extends DocumentProblem {
  rule?: RuleProblem;
}

export interface CompiledSide {
  enter: Formula | null;
  order: CompiledOrder;
  exit: Formula | null;
  exitAtClose: boolean;
}

export type CompiledOrder =
  { type: "market"; atClose: boolean } | { type: "stop" | "limit"; price: Formula | null; workingBars: number; through: boolean };

/** A strategy whose formulas are checked; what depends on parameters is still open. */
export interface Compiled {
  strategy: Strategy;
  timeframe: Timeframe;
  long: CompiledSide | null;
  short: CompiledSide | null;
  protect: CompiledProtect;
  priority: Formula | null;
  entriesAtOnce: number;
  onOpposite: "reverse" | "close" | "ignore";
  /** parameters and variants at the values that the strategy holds */
  values: ParameterValues;
  /** whether any formula rests on the position, so that it is evaluated while a run goes on */
  live: boolean;
  /** extra series that its rules name */
  extras: string[];
  /** symbols of the other markets that its rules look at */
  others: string[];
  /** what the strategy's formulas may refer to */
  scope: Scope;
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
  const side = (path: "long" | "short", given: Side | undefined): CompiledSide | null => {
    if (given === undefined) return null;
    return {
      enter: given.enter ? rule(`${path}.enter.when`, given.enter.when, "yesno") : null,
      order: order(`${path}.enter.order`, given.enter?.order),
      exit: given.exit ? rule(`${path}.exit.when`, given.exit.when, "yesno") : null,
      exitAtClose: given.exit?.at === "sameClose",
    };
  };
  const order = (path: string, given: Order | undefined): CompiledOrder => {
    if (given === undefined || given.type === "market") {
      for (const key of ["price", "workingBars", "through"])
        if (given !== undefined && key in given) refuse(`${path}.${key}`, `${key} goes with stop and limit orders; this is a market order`);
      return { type: "market", atClose: given?.at === "sameClose" };
    }
    if ("at" in given) refuse(`${path}.at`, "at goes with market orders only; a stop or limit order works from the next bar on");
    if (given.type === "stop" && "through" in given) refuse(`${path}.through`, "through goes with limit orders only");
    if (given.price === undefined) refuse(`${path}.price`, `a ${given.type} order needs a price, such as highest(high, 20)`);
    const price = given.price === undefined ? null : rule(`${path}.price`, given.price, "number");
    return { type: given.type, price, workingBars: given.workingBars ?? 1, through: given.type === "limit" && (given.through ?? true) };
  };

  const long = side("long", strategy.long);
  const short = side("short", strategy.short);
  const entersAtClose = [long, short].some((one) => one?.order.type === "market" && one.order.atClose);
  const protect = compileProtect(strategy.protect ?? {}, entersAtClose, timeframe, {
    refuse,
    figure,
    formula: (path, text) => rule(path, text, "number"),
  });
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
  const price = (one: CompiledSide | null) => (one === null || one.order.type === "market" ? null : one.order.price);
  const level = (one: CompiledProtect["stop"]) => (one?.unit === "price" ? one.level : null);
  const formulas = [
    ...[long, short].flatMap((one) => [one?.enter, one?.exit, price(one)]),
    ...[protect.stop, protect.target].map(level),
    priority,
  ].filter((formula) => formula !== null && formula !== undefined);
  return {
    value: {
      live: formulas.some(restsOnPosition),
      extras: [...new Set(formulas.flatMap(extraNames))],
      others: [...new Set(formulas.flatMap(otherSymbols))],
      strategy,
      timeframe: timeframe!,
      long,
      short,
      protect,
      priority,
      entriesAtOnce: strategy.entriesAtOnce ?? 1,
      onOpposite: strategy.onOpposite ?? "reverse",
      values,
      scope,
      variable,
    },
    problems: [],
  };
}

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
