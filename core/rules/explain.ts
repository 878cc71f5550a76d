import type { Column, ColumnStore } from "./evaluate";
import { formulaText } from "./formula-text";
import type { Formula, ParameterValues } from "./formula";

/** A part of a rule with its value on one bar; yes/no as 1 and 0, missing as NaN. */
export interface Explained {
  /** as it stands in the notation; a definition by its name */
  text: string;
  kind: "number" | "yesno";
  value: number;
  /** how the inner parts come together: all must hold, any may, or they are the numbers that a comparison looks at */
  joined: "all" | "any" | "parts" | null;
  parts: Explained[];
  /** whether this part alone kept the rule from saying yes */
  onlyMissing: boolean;
}

/** The parts of a chain of `and` (or of `or`), as one list. A definition's name does not stop it. */
export function flattened(formula: Formula, op: "and" | "or"): Formula[] {
  return formula.op === op ? [...flattened(formula.x, op), ...flattened(formula.y, op)] : [formula];
}

/** The conditions that a rule is made of at its top: those of an `and`, or the rule itself. */
export const conditionsOf = (formula: Formula): Formula[] => flattened(formula, "and");

/** A rule as a tree of its parts with their values on a bar. */
export function explain(formula: Formula, store: ColumnStore, values: ParameterValues, row: number): Explained {
  const tree = explained(formula, store, values, row);
  markOnlyMissing(tree);
  return tree;
}

function explained(given: Formula, store: ColumnStore, values: ParameterValues, row: number): Explained {
  const value = store.column(given, values)[row];
  const inner = (formula: Formula) => explained(formula, store, values, row);
  const made = (joined: Explained["joined"], parts: Explained[]): Explained => ({
    text: formulaText(given),
    kind: given.kind,
    value,
    joined: parts.length === 0 ? null : joined,
    parts,
    onlyMissing: false,
  });
  const formula = given.op === "variants" ? given.variants[values[given.name] - 1] : given;
  switch (formula.op) {
    case "and":
      return made("all", flattened(formula, "and").map(inner));
    case "or":
      return made("any", flattened(formula, "or").map(inner));
    case "not":
    case "throughout":
    case "somewhere":
      return made("parts", [inner(formula.x)]);
    case "compare":
    case "crosses":
      return made("parts", [formula.x, formula.y].filter((part) => !part.constant).map(inner));
    case "fromTo":
      return made("parts", [formula.x, formula.low, formula.high].filter((part) => !part.constant).map(inner));
    case "moves":
      return made("parts", [inner(formula.x), inner(before(formula.x))]);
    case "arithmetic":
      return made("parts", [formula.x, formula.y].filter((part) => !part.constant && part.op !== "series").map(inner));
    case "if":
      return made("parts", [formula.condition, formula.x, formula.y].filter((part) => !part.constant).map(inner));
    default:
      return made(null, []);
  }
}

/** The same one bar earlier. */
const before = (x: Formula): Formula => ({
  op: "back",
  x,
  count: { op: "value", value: 1, kind: "number", constant: true, fixedKey: "1", from: 0, to: 0 },
  kind: x.kind,
  constant: false,
  fixedKey: x.fixedKey === null ? null : `(back ${x.fixedKey} 1)`,
  from: 0,
  to: 0,
});

/** Marks the one part without which everything else would have said yes; down through what is joined by all. */
function markOnlyMissing(tree: Explained): void {
  if (tree.value === 1 || tree.joined !== "all") return;
  const missing = tree.parts.filter((part) => part.value !== 1);
  if (missing.length !== 1) return;
  missing[0].onlyMissing = true;
  markOnlyMissing(missing[0]);
}

/** A rule's conditions with their columns, and the rows on which exactly one of several was missing. */
export interface Conditions {
  texts: string[];
  columns: Uint8Array[];
  nearMisses: { row: number; missing: number }[];
}

/** Where each condition of a rule holds, and where one alone kept it from saying yes, within rows. */
export function conditionColumns(
  formula: Formula,
  store: ColumnStore,
  values: ParameterValues,
  from = 0,
  to = store.bars.length,
): Conditions {
  const conditions = conditionsOf(formula);
  const columns = conditions.map((condition) => store.column(condition, values) as Column as Uint8Array);
  const nearMisses: Conditions["nearMisses"] = [];
  if (conditions.length > 1)
    for (let row = from; row < to; row++) {
      let missing = -1;
      let count = 0;
      for (let k = 0; k < columns.length && count < 2; k++)
        if (columns[k][row] !== 1) {
          missing = k;
          count++;
        }
      if (count === 1) nearMisses.push({ row, missing });
    }
  return { texts: conditions.map(formulaText), columns, nearMisses };
}
