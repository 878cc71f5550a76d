import type { ColumnStore, Formula, ParameterValues } from "#core/rules";
import type { CompiledSide } from "./compile";

/** Bits of a bar's signals. */
export const ENTER_LONG = 1;
export const EXIT_LONG = 2;
export const ENTER_SHORT = 4;
export const EXIT_SHORT = 8;

/**
 * The bars on which any rule of a leg says yes: rows in order with their bits. One more row than any bar can have, with
 * every bit set, ends the list, so that a search needs no other bound.
 */
export interface Signals {
  rows: readonly number[];
  bits: readonly number[];
}

const BEYOND = 0x3fffffff;
const NONE: readonly number[] = [];

/** The rules of a strategy's two sides, in the order of the signals' bits. */
export const rulesOf = (long: CompiledSide | null, short: CompiledSide | null): (Formula | null)[] => [
  long?.enter ?? null,
  long?.exit ?? null,
  short?.enter ?? null,
  short?.exit ?? null,
];

/** Signals of rules (null: none) in the order of the bits, under given values. Throws a SettingError where a length has no sense. */
export function signalsOf(rules: readonly (Formula | null)[], store: ColumnStore, values: ParameterValues): Signals {
  const lists = rules.map((formula) => (formula === null ? NONE : store.yesRows(formula, values)));
  const rows: number[] = [];
  const bits: number[] = [];
  const next = [0, 0, 0, 0];
  for (;;) {
    let row = BEYOND;
    for (let k = 0; k < 4; k++) if (next[k] < lists[k].length && lists[k][next[k]] < row) row = lists[k][next[k]];
    if (row === BEYOND) break;
    let mask = 0;
    for (let k = 0; k < 4; k++)
      if (next[k] < lists[k].length && lists[k][next[k]] === row) {
        mask |= 1 << k;
        next[k]++;
      }
    rows.push(row);
    bits.push(mask);
  }
  rows.push(BEYOND);
  bits.push(255);
  return { rows, bits };
}
