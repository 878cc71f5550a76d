import { filledText } from "./formula-text";
import { restsOnPosition, walkFormula, type Formula, type ParameterValues } from "./formula";

const PRICES = new Set(["open", "high", "low", "close"]);

/**
 * The numbers that rules look at, each once, written out in the notation with values for parameters: both sides of every
 * comparison and whatever is asked to rise or to fall. Bare prices, constants and what rests on the position are left out.
 */
export function lookedAt(rules: readonly Formula[], values: ParameterValues): string[] {
  const out = new Set<string>();
  const note = (formula: Formula) => {
    // the prices themselves are what a chart shows anyway
    if (formula.op === "series" && PRICES.has(formula.name)) return;
    if (!formula.constant && formula.kind === "number" && !restsOnPosition(formula)) out.add(filledText(formula, values));
  };
  for (const rule of rules)
    walkFormula(rule, (part) => {
      if (part.op === "variants") {
        for (const one of lookedAt([part.variants[values[part.name] - 1]], values)) out.add(one);
        return false;
      }
      if (part.op === "compare" || part.op === "crosses") [part.x, part.y].forEach(note);
      else if (part.op === "fromTo") [part.x, part.low, part.high].forEach(note);
      else if (part.op === "moves") note(part.x);
    });
  return [...out];
}
