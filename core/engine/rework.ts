import type { Random } from "#core/random";
import { restsOnPosition } from "#core/rules";
import type { Compiled } from "./compile";
import { ENTER_LONG, ENTER_SHORT, EXIT_LONG, EXIT_SHORT, rulesOf, type Signals } from "./signals";
import type { EntryRework } from "./simulation";

const ENTRIES = ENTER_LONG | ENTER_SHORT;

/** Whether an entry rule rests on the position itself, so that its entries are not known before the run. */
export function entriesRestOnPosition({ long, short }: Compiled): boolean {
  const [enterLong, , enterShort] = rulesOf(long, short);
  return [enterLong, enterShort].some((rule) => rule !== null && restsOnPosition(rule));
}

/** Signals whose entries stand elsewhere: `place` gives the row of each, or −1 for none. Exits stay. */
function moved({ rows, bits }: Signals, place: (row: number) => number): Signals {
  const at = new Map<number, number>();
  const end = rows.length - 1;
  const set = (row: number, mask: number) => void (mask !== 0 && at.set(row, (at.get(row) ?? 0) | mask));
  for (let k = 0; k < end; k++) {
    set(rows[k], bits[k] & ~ENTRIES);
    const entries = bits[k] & ENTRIES;
    const to = entries === 0 ? -1 : place(rows[k]);
    if (to >= 0) set(to, entries);
  }
  const order = [...at.keys()].sort((a, b) => a - b);
  return { rows: [...order, rows[end]], bits: [...order.map((row) => at.get(row)!), bits[end]] };
}

/** Every entry is asked for so many bars later than the rules say; those beyond the last bar fall away. */
export const entriesLate =
  (bars: number): EntryRework =>
  (signals, _leg, rows) =>
    moved(signals, (row) => (row + bars < rows ? row + bars : -1));

/** Every entry signal is missed with a probability (0 to 1), each by itself. */
export const entriesMissed =
  (probability: number, random: Random): EntryRework =>
  (signals) =>
    moved(signals, (row) => (random.uniform() < probability ? -1 : row));

/** From a row of each leg on (`fromRow`, as many as it has where the leg goes on) nothing enters, and what is open is told to leave. */
export const givenUpFrom =
  (fromRow: (leg: number, rows: number) => number): EntryRework =>
  ({ rows: given, bits: own }, leg, rows) => {
    const first = fromRow(leg, rows);
    const kept = given.findIndex((row) => row >= first);
    const after = Array.from({ length: rows - first }, (_, k) => first + k);
    return {
      rows: [...given.slice(0, kept), ...after, given[given.length - 1]],
      bits: [...own.slice(0, kept), ...after.map(() => EXIT_LONG | EXIT_SHORT), own[own.length - 1]],
    };
  };
