import Papa from "papaparse";
import { parseDate } from "./dates";
import { DAY, MINUTE, formatTimeframe, type Timeframe } from "./timeframe";

/** How dates and times stand in a file. */
export const TIME_KINDS = ["iso", "compact", "dayFirst", "monthFirst", "seconds", "milliseconds"] as const;
export type TimeKind = (typeof TIME_KINDS)[number];

export const DELIMITERS = [",", ";", "\t", "|"] as const;

/** The columns that bars are made of, by their place in a row counted from 0; null where the file has none. */
export interface CsvColumns {
  date: number | null;
  time: number | null;
  open: number | null;
  high: number | null;
  low: number | null;
  close: number | null;
  volume: number | null;
}

/** Everything that has to be known to read bars from a CSV file. */
export interface CsvFormat {
  delimiter: string;
  /** whether the first line names the columns */
  header: boolean;
  columns: CsvColumns;
  decimal: "." | ",";
  time: TimeKind;
  /** IANA zone of times that carry no offset of their own */
  zone: string;
  /** whether a line's time is its bar's start or its end */
  stamp: "start" | "end";
  timeframe: string;
  /** whether the newest line comes first */
  newestFirst: boolean;
}

/** Something that the file alone doesn't tell, to be asked. */
export interface CsvDoubt {
  about: "time";
  question: string;
}

export interface CsvGuess {
  format: CsvFormat;
  doubts: CsvDoubt[];
  /** names of the columns, or their numbers where the file has no header */
  names: string[];
}

export const CSV_COLUMNS = ["date", "time", "open", "high", "low", "close", "volume"] as const;

/** Other names that sources give a column, in lower case. */
const ALIASES: Record<(typeof CSV_COLUMNS)[number], readonly string[]> = {
  date: ["date", "day", "session", "tradedate"],
  time: ["time", "datetime", "date_time", "timestamp", "date/time", "start", "ts", "clock"],
  open: ["open", "o", "first"],
  high: ["high", "h", "max"],
  low: ["low", "l", "min"],
  close: ["close", "c", "last", "settle", "price"],
  volume: ["volume", "vol", "v", "quantity"],
};

/** A byte order mark at the start of a text says nothing about bars. */
export const withoutMark = (text: string): string => (text.charCodeAt(0) === 0xfeff ? text.slice(1) : text);

/** Rows of a sample of text; a last line that may be torn is left out where more follows. */
function sampleRows(text: string, delimiter: string, torn: boolean): string[][] {
  const end = torn ? text.lastIndexOf("\n") : text.length;
  const rows = Papa.parse<string[]>(text.slice(0, end < 0 ? text.length : end), { delimiter, preview: 400 }).data;
  return rows.filter((row) => row.length > 1 || row[0].trim() !== "");
}

function guessDelimiter(text: string): string {
  const lines = text.split(/\r?\n|\r/, 6).filter((line) => line.trim() !== "");
  const first = lines[0] ?? "";
  const cells = (d: string) => first.split(d).length;
  return DELIMITERS.reduce((best, d) => (cells(d) > cells(best) ? d : best), cells(";") >= 5 ? ";" : ",");
}

const numeric = (cell: string): boolean => /^[+-]?[\d.,]*\d[\d.,]*([eE][+-]?\d+)?$/.test(cell.trim());

/** A decimal comma where a cell has one comma and no point, and no cell has a point after digits alone. */
function guessDecimal(rows: readonly string[][], at: readonly (number | null)[]): "." | "," {
  let commas = 0;
  let points = 0;
  for (const row of rows)
    for (const place of at) {
      const cell = place === null ? "" : (row[place] ?? "");
      if (/^\s*[+-]?\d+,\d+\s*$/.test(cell)) commas++;
      if (cell.includes(".")) points++;
    }
  return commas > 0 && points === 0 ? "," : ".";
}

const SLASHED = /^(\d{1,2})[./-](\d{1,2})[./-](\d{4})\b/;

function guessTime(cells: readonly string[]): { kind: TimeKind; doubt: CsvDoubt | null } {
  const sample = cells.map((cell) => cell.trim()).filter((cell) => cell !== "");
  const share = (test: (cell: string) => boolean) => sample.filter(test).length > sample.length / 2;
  if (share((cell) => /^\d{8}(\D|$)/.test(cell) && parseDate(`${cell.slice(0, 4)}-${cell.slice(4, 6)}-${cell.slice(6, 8)}`) !== null))
    return { kind: "compact", doubt: null };
  if (share((cell) => /^-?\d{12,14}$/.test(cell))) return { kind: "milliseconds", doubt: null };
  if (share((cell) => /^-?\d{8,11}(\.\d+)?$/.test(cell))) return { kind: "seconds", doubt: null };
  if (share((cell) => SLASHED.test(cell))) {
    const parts = sample.map((cell) => SLASHED.exec(cell)).filter((match) => match !== null);
    if (parts.some((match) => Number(match[1]) > 12)) return { kind: "dayFirst", doubt: null };
    if (parts.some((match) => Number(match[2]) > 12)) return { kind: "monthFirst", doubt: null };
    return {
      kind: "dayFirst",
      doubt: {
        about: "time",
        question: `is “${parts[0]?.[0] ?? ""}” the day first or the month first? No date in the file tells them apart`,
      },
    };
  }
  return { kind: "iso", doubt: null };
}

/** The most common step between neighbours, as a timeframe; daily where nothing can be told. */
export function commonTimeframe(times: ArrayLike<number>): Timeframe {
  const counts = new Map<number, number>();
  for (let i = 1; i < times.length; i++) {
    const step = Math.abs(times[i] - times[i - 1]);
    if (step > 0) counts.set(step, (counts.get(step) ?? 0) + 1);
  }
  let step = DAY;
  let most = 0;
  for (const [candidate, count] of counts) if (count > most) [step, most] = [candidate, count];
  if (step >= 27 * DAY) return { unit: "month", count: 1 };
  if (step >= 6 * DAY) return { unit: "week", count: 1 };
  if (step >= 0.9 * DAY) return { unit: "day", count: 1 };
  return { unit: "minute", count: Math.max(1, Math.round(step / MINUTE)) };
}

/**
 * Guesses how a file is written from its beginning. `torn`: whether more text follows. `timesOf` reads the sample's times
 * under a format (the reader's own function, so that guess and reading can't differ). `strict`: the first line names the
 * columns, by exactly their names.
 */
export function guessFormat(
  text: string,
  torn: boolean,
  timesOf: (rows: readonly string[][], format: CsvFormat) => number[],
  strict = false,
): CsvGuess {
  const source = withoutMark(text);
  const delimiter = guessDelimiter(source);
  const rows = sampleRows(source, delimiter, torn);
  const first = (rows[0] ?? []).map((cell) => cell.trim());
  const header = strict || first.some((cell) => cell !== "" && !numeric(cell) && !/^\d{1,4}[-./]\d{1,2}[-./]\d{1,4}/.test(cell));
  const body = header ? rows.slice(1) : rows;
  const columns = header ? byName(first, strict) : byPlace(body);
  const format: CsvFormat = {
    delimiter,
    header,
    columns,
    decimal: guessDecimal(body, [columns.open, columns.high, columns.low, columns.close]),
    time: "iso",
    zone: "UTC",
    stamp: "start",
    timeframe: "1d",
    newestFirst: false,
  };
  const place = columns.date ?? columns.time;
  const { kind, doubt } = guessTime(place === null ? [] : body.map((row) => row[place] ?? ""));
  format.time = kind;
  const times = timesOf(body, format).filter((time) => !Number.isNaN(time));
  format.timeframe = formatTimeframe(commonTimeframe(times));
  let falls = 0;
  for (let i = 1; i < times.length; i++) falls += Math.sign(times[i] - times[i - 1]);
  format.newestFirst = falls < 0;
  return {
    format,
    doubts: doubt === null ? [] : [doubt],
    names: header ? first : first.map((_, i) => `column ${i + 1}`),
  };
}

function byName(header: readonly string[], strict: boolean): CsvColumns {
  const plain = header.map((name) => name.toLowerCase().replace(/^<|>$/g, ""));
  const find = (name: (typeof CSV_COLUMNS)[number]): number | null => {
    for (const alias of strict ? [name] : ALIASES[name]) {
      const at = plain.indexOf(alias);
      if (at >= 0) return at;
    }
    return null;
  };
  return Object.fromEntries(CSV_COLUMNS.map((name) => [name, find(name)])) as unknown as CsvColumns;
}

/** Without names: a date, a time of day where the second column holds one, then open, high, low, close and volume. */
function byPlace(rows: readonly string[][]): CsvColumns {
  const second = rows[0]?.[1]?.trim() ?? "";
  const clock = /^\d{1,2}:\d{2}/.test(second) || (/^\d{6}$/.test(second) && !second.includes("."));
  const start = clock ? 2 : 1;
  const width = rows[0]?.length ?? 0;
  const at = (k: number) => (start + k < width ? start + k : null);
  return { date: 0, time: clock ? 1 : null, open: at(0), high: at(1), low: at(2), close: at(3), volume: at(4) };
}
