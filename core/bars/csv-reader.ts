import Papa from "papaparse";
import { barFault, emptyBars, sliceBars, type Bars } from "./bars";
import { CSV_COLUMNS, withoutMark, type CsvFormat } from "./csv-format";
import { StampReader } from "./csv-time";
import { parseTimeframe } from "./timeframe";

/** A line of a file that was left out, with the reason in a sentence. Lines count from 1, the header included. */
export interface LineProblem {
  line: number;
  message: string;
}

export interface CsvBars {
  bars: Bars;
  /** lines left out; the first ones, at most MOST_PROBLEMS */
  problems: LineProblem[];
  /** how many lines were left out in all */
  rejected: number;
  /** what stops the whole file, or null */
  fatal: string | null;
}

/** Problems that are kept one by one; beyond it they are only counted. */
export const MOST_PROBLEMS = 10_000;
/** A line longer than this belongs to no file of bars. */
export const LONGEST_LINE = 100_000;
const PIECE = 262_144;

const NUMBER = /^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/;

/**
 * Reads bars from the text of a CSV file, piece by piece, under a known format. A broken line is left out and reported,
 * never repaired; of two lines of one time the earlier one stays. Memory grows with the bars, not with the text.
 */
export class CsvReader {
  private rest = "";
  private line = 0;
  private count = 0;
  private rejected = 0;
  private fatal: string | null = null;
  private readonly problems: LineProblem[] = [];
  private bars = emptyBars(4096);
  private lines = new Float64Array(4096);
  private readonly stamps: StampReader;
  private started = false;

  constructor(
    private readonly format: CsvFormat,
    /** take times as they stand, whatever the format's timeframe */
    literal = false,
  ) {
    this.stamps = new StampReader(format, literal ? null : parseTimeframe(format.timeframe));
    const { columns } = format;
    const missing = (["open", "high", "low", "close"] as const).filter((name) => columns[name] === null).map((name) => `“${name}”`);
    if (columns.date === null && columns.time === null) missing.unshift("“time” or “date”");
    if (missing.length > 0) this.fatal = `line 1: no column ${missing.join(", ")}`;
  }

  /** The next piece of text, torn anywhere. */
  push(text: string): void {
    // in small pieces, so that a line without an end is noticed before it is taken apart
    for (let at = 0; at < text.length && this.fatal === null; at += PIECE) this.take(text.slice(at, at + PIECE));
  }

  private take(text: string): void {
    this.rest += this.started ? text : withoutMark(text);
    this.started = true;
    const end = this.rest.lastIndexOf("\n");
    const bare = end < 0 ? this.rest.lastIndexOf("\r", this.rest.length - 2) : end;
    if (bare < 0) {
      if (this.rest.length > LONGEST_LINE) this.tooLong();
      return;
    }
    const head = this.rest.slice(0, bare + 1);
    // a quoted cell may hold line ends: what is cut inside one waits for its other half
    if (head.includes('"') && (head.split('"').length - 1) % 2 === 1) {
      if (this.rest.length > 20 * LONGEST_LINE) this.fatal = `line ${this.line + 1} or after it: a quotation mark that never closes`;
      return;
    }
    this.rest = this.rest.slice(bare + 1);
    if (this.rest.length > LONGEST_LINE) return this.tooLong();
    this.read(head);
  }

  private tooLong(): void {
    this.fatal = `a line is longer than ${LONGEST_LINE.toLocaleString("en")} characters; this is no file of bars`;
    this.rest = "";
  }

  /** The bars read so far; nothing more may follow. */
  finish(): CsvBars {
    if (this.fatal === null && this.rest !== "") this.read(this.rest);
    this.rest = "";
    if (this.fatal === null && this.line === 0) this.fatal = "the file is empty";
    let bars = sliceBars(this.bars, 0, this.fatal === null ? this.count : 0);
    if (this.format.newestFirst) {
      for (const name of ["time", "open", "high", "low", "close", "volume"] as const) bars[name].reverse();
      bars = sliceBars(bars, 0, bars.length);
    }
    return { bars, problems: this.problems, rejected: this.rejected, fatal: this.fatal };
  }

  private read(text: string): void {
    const { delimiter, header } = this.format;
    const rows = Papa.parse<string[]>(text, { delimiter, newline: text.includes("\n") ? "\n" : "\r" }).data;
    // the text ends with a line end, after which the parser sees one more, empty row
    const last = rows[rows.length - 1];
    const until = rows.length > 0 && last.length === 1 && last[0] === "" ? rows.length - 1 : rows.length;
    for (let i = 0; i < until; i++) {
      this.line++;
      if (this.line === 1 && header) continue;
      this.row(rows[i]);
    }
  }

  private reject(message: string): void {
    this.rejected++;
    if (this.problems.length < MOST_PROBLEMS) this.problems.push({ line: this.line, message });
  }

  private row(row: readonly string[]): void {
    if (row.length === 1 && row[0].trim() === "") return;
    const { columns, decimal, newestFirst } = this.format;
    const date = cellAt(row, columns.date);
    const clock = cellAt(row, columns.time);
    const time = this.stamps.start(date, clock);
    if (Number.isNaN(time))
      return this.reject(`“${[date, clock].filter(Boolean).join(" ").slice(0, 60)}” is not a date (write YYYY-MM-DD or ISO 8601)`);
    const volumeText = cellAt(row, columns.volume);
    const open = readNumber(cellAt(row, columns.open), decimal);
    const high = readNumber(cellAt(row, columns.high), decimal);
    const low = readNumber(cellAt(row, columns.low), decimal);
    const close = readNumber(cellAt(row, columns.close), decimal);
    const volume = volumeText === "" ? 0 : readNumber(volumeText, decimal);
    let fault = barFault(open, high, low, close, volume);
    if (fault !== null) fault = this.figureFault(row) ?? fault;
    const { count, bars } = this;
    if (fault === null && count > 0) {
      const ahead = newestFirst ? bars.time[count - 1] - time : time - bars.time[count - 1];
      if (ahead === 0) fault = `the time stands already on line ${this.lines[count - 1]}`;
      else if (ahead < 0) fault = newestFirst ? "the time is after that of the line above" : "the time is before that of the line above";
    }
    if (fault !== null) return this.reject(fault);
    if (count === bars.length) this.grow();
    const into = this.bars;
    into.time[count] = time;
    into.open[count] = open;
    into.high[count] = high;
    into.low[count] = low;
    into.close[count] = close;
    into.volume[count] = volume;
    this.lines[count] = this.line;
    this.count++;
  }

  /** Which cell of a row is no number, in a sentence; null where all are. */
  private figureFault(row: readonly string[]): string | null {
    const { columns, decimal } = this.format;
    for (const name of ["open", "high", "low", "close", "volume"] as const) {
      const text = cellAt(row, columns[name]);
      if (name === "volume" && text === "") continue;
      if (Number.isNaN(readNumber(text, decimal)))
        return text === "" ? `${name} is missing` : `${name} “${text.slice(0, 40)}” is not a number`;
    }
    return null;
  }

  private grow(): void {
    const larger = emptyBars(this.bars.length * 2);
    for (const name of ["time", "open", "high", "low", "close", "volume"] as const) larger[name].set(this.bars[name]);
    const lines = new Float64Array(larger.length);
    lines.set(this.lines);
    this.bars = larger;
    this.lines = lines;
  }
}

const cellAt = (row: readonly string[], place: number | null): string => (place !== null && place < row.length ? trimmed(row[place]) : "");

/** The number that a cell holds; NaN where it holds none. */
function readNumber(text: string, decimal: "." | ","): number {
  const value = decimal === "," ? text.replace(",", ".") : text;
  const plain = plainNumber(value);
  if (plain === plain) return plain;
  return NUMBER.test(value) ? Number(value) : NaN;
}

/** A text without blanks at its ends; most have none. */
function trimmed(text: string): string {
  const { length } = text;
  return length > 0 && (text.charCodeAt(0) <= 32 || text.charCodeAt(length - 1) <= 32) ? text.trim() : text;
}

const TENS = Array.from({ length: 16 }, (_, k) => 10 ** k);

/**
 * Digits with a point at most, up to 15 of them: a whole number ÷ a power of ten, which is the same float to the last bit as
 * the platform's own reading. NaN for any other text.
 */
function plainNumber(text: string): number {
  const { length } = text;
  if (length === 0 || length > 16) return NaN;
  let at = 0;
  const negative = text.charCodeAt(0) === 45;
  if (negative) at = 1;
  let whole = 0;
  let digits = 0;
  let point = -1;
  for (; at < length; at++) {
    const code = text.charCodeAt(at);
    if (code === 46 && point < 0) point = digits;
    else if (code >= 48 && code <= 57) {
      whole = 10 * whole + code - 48;
      digits++;
    } else return NaN;
  }
  if (digits === 0 || digits > 15) return NaN;
  const value = point < 0 ? whole : whole / TENS[digits - point];
  return negative ? -value : value;
}

/** Times of sample rows under a format, for the guess. */
export function timesOfRows(rows: readonly string[][], format: CsvFormat): number[] {
  const stamps = new StampReader(format, null);
  const cell = (row: readonly string[], place: number | null) => (place !== null && place < row.length ? row[place].trim() : "");
  return rows.map((row) => stamps.start(cell(row, format.columns.date), cell(row, format.columns.time)));
}

/** Whether a format names the columns that bars need; the names still missing. */
export const missingColumns = (format: CsvFormat): string[] =>
  CSV_COLUMNS.filter((name) => name !== "volume" && name !== "date" && name !== "time" && format.columns[name] === null);
