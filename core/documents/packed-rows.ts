/**
 * Rows of one shape as columns of bytes: small, quick to write and to read, and exact to the last bit. Four bytes hold the
 * length of a head (JSON: the number of rows, and each column's key, kind and words), then, from a multiple of eight bytes
 * on, come the columns in its order: numbers and times as 64-bit floats (NaN: null), words and truths as 32-bit numbers (0: null).
 */
export type PackedKind = "number" | "time" | "word" | "truth";

/** The columns of rows in the order of their keys. A key that no row has is left out. */
export type PackedShape = readonly (readonly [key: string, kind: PackedKind])[];

interface Head {
  rows: number;
  columns: { key: string; kind: PackedKind; words?: string[] }[];
}

const WIDE: Record<PackedKind, boolean> = { number: true, time: true, word: false, truth: false };
const upTo8 = (bytes: number): number => Math.ceil(bytes / 8) * 8;

/** Rows as bytes. Times must be ISO 8601 UTC with milliseconds, numbers finite or null. */
export function packRows<Row extends object>(rows: readonly Row[], shape: PackedShape): Uint8Array {
  const head: Head = { rows: rows.length, columns: [] };
  const columns: (Float64Array | Uint32Array)[] = [];
  for (const [key, kind] of shape) {
    const at = (i: number): unknown => (rows[i] as Record<string, unknown>)[key];
    if (rows.length > 0 && at(0) === undefined) continue;
    if (kind === "word") {
      const known = new Map<string, number>();
      columns.push(
        Uint32Array.from({ length: rows.length }, (_, i) => {
          const word = at(i) as string | null;
          if (word === null) return 0;
          let index = known.get(word);
          if (index === undefined) known.set(word, (index = known.size + 1));
          return index;
        }),
      );
      head.columns.push({ key, kind, words: [...known.keys()] });
      continue;
    }
    const value = (i: number): number => {
      const given = at(i);
      if (kind === "truth") return given === null ? 0 : given === true ? 2 : 1;
      return given === null ? NaN : kind === "time" ? Date.parse(given as string) : (given as number);
    };
    const column = WIDE[kind] ? new Float64Array(rows.length) : new Uint32Array(rows.length);
    for (let i = 0; i < rows.length; i++) column[i] = value(i);
    columns.push(column);
    head.columns.push({ key, kind });
  }
  return written(head, columns);
}

/** Columns of numbers as bytes, in the same form as rows. */
export function packColumns(columns: Readonly<Record<string, Float64Array>>): Uint8Array {
  const names = Object.keys(columns);
  const head: Head = { rows: columns[names[0]].length, columns: names.map((key) => ({ key, kind: "number" })) };
  return written(head, Object.values(columns));
}

function written(head: Head, columns: readonly (Float64Array | Uint32Array)[]): Uint8Array {
  const text = new TextEncoder().encode(JSON.stringify(head));
  let size = upTo8(4 + text.length);
  for (const column of columns) size += upTo8(column.byteLength);
  const out = new Uint8Array(size);
  new DataView(out.buffer).setUint32(0, text.length, true);
  out.set(text, 4);
  let at = upTo8(4 + text.length);
  for (const column of columns) {
    out.set(new Uint8Array(column.buffer, column.byteOffset, column.byteLength), at);
    at += upTo8(column.byteLength);
  }
  return out;
}

function opened(bytes: Uint8Array): { head: Head; columns: (Float64Array | Uint32Array)[] } {
  // columns are looked at in place, which needs them to begin at a multiple of eight
  const whole = bytes.byteOffset % 8 === 0 ? bytes : bytes.slice();
  const { buffer, byteOffset } = whole;
  const length = new DataView(buffer, byteOffset).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(whole.subarray(4, 4 + length))) as Head;
  let at = byteOffset + upTo8(4 + length);
  const columns = head.columns.map(({ kind }) => {
    const column = WIDE[kind] ? new Float64Array(buffer, at, head.rows) : new Uint32Array(buffer, at, head.rows);
    at += upTo8(column.byteLength);
    return column;
  });
  return { head, columns };
}

type Reader = (i: number) => unknown;

/** How each column's values are read, by its key. */
function readersOf({ head, columns }: ReturnType<typeof opened>): [key: string, read: Reader, kind: PackedKind][] {
  return head.columns.map(({ key, kind, words = [] }, c) => {
    const column = columns[c];
    switch (kind) {
      case "number":
        return [key, (i) => (Number.isNaN(column[i]) ? null : column[i]), kind];
      case "time":
        return [key, (i) => (Number.isNaN(column[i]) ? null : new Date(column[i]).toISOString()), kind];
      case "word":
        return [key, (i) => (column[i] === 0 ? null : words[column[i] - 1]), kind];
      case "truth":
        return [key, (i) => (column[i] === 0 ? null : column[i] === 2), kind];
    }
  });
}

/** Rows out of bytes, with their keys in the order of the shape. */
export function unpackRows<Row extends object>(bytes: Uint8Array): Row[] {
  const packed = opened(bytes);
  const readers = readersOf(packed);
  return Array.from({ length: packed.head.rows }, (_, i) => {
    const row: Record<string, unknown> = {};
    for (const [key, read] of readers) row[key] = read(i);
    return row as Row;
  });
}

/** Where a view keeps its row, apart from every key. */
const ROW = Symbol("row");

/** What times are called as numbers on rows that look into their columns: milliseconds, NaN for null. */
export const momentKey = (key: string): string => `${key}Moment`;

/**
 * Rows out of bytes that hold nothing themselves and look into the columns when asked: for very many rows, of which few are
 * shown. Each time is there as a number, too (see `momentKey`). They can be read like other rows but not spread into one.
 */
export function viewRows<Row extends object>(bytes: Uint8Array): Row[] {
  const packed = opened(bytes);
  const readers = readersOf(packed);
  class RowView {
    readonly [ROW]: number;
    constructor(row: number) {
      this[ROW] = row;
    }
    toJSON(): unknown {
      return Object.fromEntries(readers.map(([key, read]) => [key, read(this[ROW])]));
    }
  }
  readers.forEach(([key, read, kind], c) => {
    const column = packed.columns[c];
    Object.defineProperty(RowView.prototype, key, {
      get(this: RowView) {
        return read(this[ROW]);
      },
    });
    if (kind === "time")
      Object.defineProperty(RowView.prototype, momentKey(key), {
        get(this: RowView) {
          return column[this[ROW]];
        },
      });
  });
  return Array.from({ length: packed.head.rows }, (_, i) => new RowView(i) as unknown as Row);
}

/** Columns of numbers out of bytes, by their keys. */
export function unpackColumns<Key extends string>(bytes: Uint8Array): Record<Key, Float64Array> {
  const { head, columns } = opened(bytes);
  return Object.fromEntries(head.columns.map(({ key }, c) => [key, columns[c]])) as Record<Key, Float64Array>;
}
