import { formatRule } from "./format";
import type { Formula, ParameterValues } from "./formula";
import type { Syntax } from "./syntax";

/** A checked formula in the notation; what is a definition by its name. */
export const formulaText = (formula: Formula): string => formatRule(syntaxOf(formula));

/** The same with nothing left to look up: definitions written out, parameters as their values. */
export const filledText = (formula: Formula, values: ParameterValues): string => formatRule(syntaxOf(formula, values));

/** A checked formula as a tree of the notation; with values, everything is written out. */
function syntaxOf(formula: Formula, values: ParameterValues | null = null): Syntax {
  const place = { from: 0, to: 0 };
  const number = (value: number): Syntax =>
    value < 0 ? { ...place, type: "minus", x: { ...place, type: "number", value: -value } } : { ...place, type: "number", value };
  const of = (inner: Formula) => syntaxOf(inner, values);
  if (values === null) {
    if (formula.named !== undefined) return { ...place, type: "name", name: formula.named };
  } else if (formula.op === "parameter") return number(values[formula.name]);
  else if (formula.op === "variants") return of(formula.variants[values[formula.name] - 1]);
  switch (formula.op) {
    case "value":
      return number(formula.value);
    case "parameter":
    case "series":
    case "position":
    case "variants":
      return { ...place, type: "name", name: formula.name };
    case "extra":
      return { ...place, type: "call", name: "series", nameTo: 0, args: [{ ...place, type: "string", text: formula.name }] };
    case "on":
      return { ...place, type: "on", x: of(formula.x), timeframe: formula.timeframe, timeframeFrom: 0 };
    case "of":
      return { ...place, type: "of", x: of(formula.x), symbol: formula.symbol, quoted: !/^[A-Za-z][A-Za-z0-9_.]*$/.test(formula.symbol) };
    case "minus":
      return { ...place, type: "minus", x: of(formula.x) };
    case "not":
      return { ...place, type: "not", x: of(formula.x) };
    case "arithmetic":
      return { ...place, type: "arithmetic", operator: formula.operator, x: of(formula.x), y: of(formula.y) };
    case "compare":
      return { ...place, type: "compare", operator: formula.operator, x: of(formula.x), y: of(formula.y) };
    case "fromTo":
      return { ...place, type: "fromTo", x: of(formula.x), low: of(formula.low), high: of(formula.high) };
    case "crosses":
      return { ...place, type: "crosses", direction: formula.direction, x: of(formula.x), y: of(formula.y) };
    case "moves":
      return { ...place, type: "moves", motion: formula.motion, x: of(formula.x) };
    case "throughout":
    case "somewhere":
    case "back":
      return { ...place, type: formula.op, x: of(formula.x), count: of(formula.count) };
    case "and":
    case "or":
      return { ...place, type: formula.op, x: of(formula.x), y: of(formula.y) };
    case "if":
      return { ...place, type: "if", args: [formula.condition, formula.x, formula.y].map(of) };
    case "call": {
      const { entry, inputs, settings, part } = formula;
      const last = entry.last === undefined ? [] : inputs.slice(entry.inputs.length);
      const own = entry.last === undefined ? inputs : inputs.slice(0, entry.inputs.length);
      const args = [...own, ...settings, ...last.filter((x) => !(x.op === "series" && x.name === entry.last?.default))].map(of);
      const call: Syntax = { ...place, type: "call", name: entry.name, nameTo: 0, args };
      return part === null || part === entry.defaultPart ? call : { ...place, type: "part", x: call, part, partFrom: 0 };
    }
  }
}
