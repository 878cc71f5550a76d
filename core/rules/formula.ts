import { newColumn } from "./column-memory";
import type { FunctionEntry } from "./registry";
import { BARE } from "./session-series";
import type { ArithmeticOperator, CompareOperator } from "./syntax";

export type Kind = "number" | "yesno";

/** Values of a strategy's own position, known bar by bar; missing when flat (`inLong`, `inShort`: no). */
export const POSITION_NAMES = ["inLong", "inShort", "barsHeld", "entryPrice", "openProfit", "openR"] as const;
export type PositionName = (typeof POSITION_NAMES)[number];

/** A checked formula. `constant`: it comes down to numbers and parameters. `fixedKey`: its key where no parameter plays a part. `named`: the definition that it stands for. */
export type Formula = { kind: Kind; constant: boolean; fixedKey: string | null; from: number; to: number; named?: string } & (
  | { op: "value"; value: number }
  | { op: "parameter"; name: string }
  | { op: "series"; name: string }
  | { op: "extra"; name: string }
  | { op: "position"; name: PositionName }
  | { op: "on"; x: Formula; timeframe: string }
  | { op: "of"; x: Formula; symbol: string }
  | { op: "call"; entry: FunctionEntry; inputs: Formula[]; settings: Formula[]; part: string | null }
  | { op: "minus"; x: Formula }
  | { op: "arithmetic"; operator: ArithmeticOperator; x: Formula; y: Formula }
  | { op: "compare"; operator: CompareOperator; x: Formula; y: Formula }
  | { op: "fromTo"; x: Formula; low: Formula; high: Formula }
  | { op: "crosses"; direction: "above" | "below"; x: Formula; y: Formula }
  | { op: "moves"; motion: "rising" | "falling"; x: Formula }
  | { op: "throughout" | "somewhere"; x: Formula; count: Formula }
  | { op: "not"; x: Formula }
  | { op: "and" | "or"; x: Formula; y: Formula }
  | { op: "back"; x: Formula; count: Formula }
  | { op: "if"; condition: Formula; x: Formula; y: Formula }
  | { op: "variants"; name: string; variants: Formula[] }
);

/** Values of parameters by name; yes/no ones as 1 and 0, the chosen variant of a definition as its number from 1. */
export type ParameterValues = Readonly<Record<string, number>>;

/** The value of a constant formula: a number (yes = 1, no = 0), NaN where it does not exist. */
export function constantValue(formula: Formula, values: ParameterValues): number {
  const of = (f: Formula) => constantValue(f, values);
  const yes = (truth: boolean) => (truth ? 1 : 0);
  const finite = (x: number) => (Number.isFinite(x) ? x : NaN);
  switch (formula.op) {
    case "value":
      return formula.value;
    case "parameter":
      return values[formula.name];
    case "variants":
      return of(formula.variants[values[formula.name] - 1]);
    case "minus":
      return -of(formula.x);
    case "arithmetic":
      return finite(arithmetic(formula.operator, of(formula.x), of(formula.y)));
    case "compare":
      return yes(compare(formula.operator, of(formula.x), of(formula.y)));
    case "fromTo":
      return yes(of(formula.x) >= of(formula.low) && of(formula.x) <= of(formula.high));
    case "not":
      return yes(of(formula.x) === 0);
    case "and":
      return yes(of(formula.x) === 1 && of(formula.y) === 1);
    case "or":
      return yes(of(formula.x) === 1 || of(formula.y) === 1);
    case "if":
      return of(formula.condition) === 1 ? of(formula.x) : of(formula.y);
    case "call": {
      const result = formula.entry.compute(
        formula.inputs.map((input) => Float64Array.of(of(input))),
        formula.settings.map(of),
        NO_BARS,
        BARE,
        newColumn,
      );
      return (result as Float64Array)[0];
    }
    default:
      throw new Error(`${formula.op} is never constant`);
  }
}

const none = new Float64Array(0);
const NO_BARS = { length: 0, time: none, open: none, high: none, low: none, close: none, volume: none };

export function arithmetic(operator: ArithmeticOperator, x: number, y: number): number {
  switch (operator) {
    case "+":
      return x + y;
    case "-":
      return x - y;
    case "*":
      return x * y;
    case "/":
      return x / y;
    case "%":
      return x % y;
  }
}

/** A comparison with a missing side is no. */
export function compare(operator: CompareOperator, x: number, y: number): boolean {
  switch (operator) {
    case "<":
      return x < y;
    case "<=":
      return x <= y;
    case ">":
      return x > y;
    case ">=":
      return x >= y;
    case "=":
      return x === y;
    case "!=":
      return x < y || x > y;
  }
}

/** The formulas that a formula is directly made of, in the order of the text. */
export function innerOf(formula: Formula): readonly Formula[] {
  switch (formula.op) {
    case "value":
    case "parameter":
    case "series":
    case "extra":
    case "position":
      return [];
    case "minus":
    case "not":
    case "moves":
    case "on":
    case "of":
      return [formula.x];
    case "arithmetic":
    case "compare":
    case "crosses":
    case "and":
    case "or":
      return [formula.x, formula.y];
    case "fromTo":
      return [formula.x, formula.low, formula.high];
    case "throughout":
    case "somewhere":
    case "back":
      return [formula.x, formula.count];
    case "if":
      return [formula.condition, formula.x, formula.y];
    case "call":
      return [...formula.inputs, ...formula.settings];
    case "variants":
      return formula.variants;
  }
}

/** Goes through a formula and everything inside it; where `into` says no to one, its inner ones are left out. */
export function walkFormula(formula: Formula, into: (part: Formula) => boolean | void): void {
  if (into(formula) === false) return;
  for (const inner of innerOf(formula)) walkFormula(inner, into);
}

/** Whether a formula rests on the strategy's own position, and so is known only while a run goes on. */
export const restsOnPosition = (formula: Formula): boolean => formula.op === "position" || innerOf(formula).some(restsOnPosition);

/** Names of the extra series that a formula asks of its own market. */
export function extraNames(formula: Formula): string[] {
  const names: string[] = [];
  walkFormula(formula, (part) => {
    if (part.op === "extra") names.push(part.name);
    return part.op !== "of";
  });
  return names;
}

/** Symbols of the other markets that a formula looks at. */
export function otherSymbols(formula: Formula): string[] {
  const symbols: string[] = [];
  walkFormula(formula, (part) => {
    if (part.op === "of") symbols.push(part.symbol);
  });
  return symbols;
}
