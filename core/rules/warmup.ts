import { SERIES } from "./registry";
import { constantValue, type Formula, type ParameterValues } from "./formula";

/** Bars before which a formula's value can't exist, under given parameter values. */
export function warmup(formula: Formula, values: ParameterValues): number {
  const of = (...formulas: Formula[]) => Math.max(0, ...formulas.map((f) => warmup(f, values)));
  switch (formula.op) {
    case "value":
    case "parameter":
    case "extra":
    case "position":
      return 0;
    case "series":
      return SERIES.get(formula.name)!.warmup ?? 0;
    case "variants":
      return of(formula.variants[values[formula.name] - 1]);
    case "call":
      return (
        of(...formula.inputs) +
        formula.entry.warmup(
          formula.settings.map((f) => constantValue(f, values)),
          formula.part,
        )
      );
    // bars of another timeframe or market: their number is no number of ours
    case "on":
    case "of":
    case "minus":
    case "not":
      return of(formula.x);
    case "moves":
      return of(formula.x) + 1;
    case "crosses":
      return of(formula.x, formula.y) + 1;
    case "arithmetic":
    case "compare":
    case "and":
    case "or":
      return of(formula.x, formula.y);
    case "fromTo":
      return of(formula.x, formula.low, formula.high);
    case "throughout":
    case "somewhere":
      return of(formula.x) + constantValue(formula.count, values) - 1;
    case "back":
      return of(formula.x) + constantValue(formula.count, values);
    case "if":
      return of(formula.condition, formula.x, formula.y);
  }
}
