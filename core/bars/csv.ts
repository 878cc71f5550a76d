import Papa from "papaparse";
import { barFault, emptyBars, sliceBars, type Bars } from "./bars";
import { parseDate } from "./dates";
import { DAY } from "./timeframe";

/** A line of a file that was left out, with the reason in a sentence. Lines count from 1, the header included. */
export interface LineProblem {
  line: number;
  message: string;
}

export interface CsvBars {
  bars: Bars;
  /** lines left out */
  problems: LineProblem[];
  /** what stops the whole file, or null */
  fatal: string | null;
}

const NUMBER = /^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/;
const ISO = /^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}(:\d{2}(\.\d{1,3})?)?(Z|[+-]\d{2}:?\d{2})?$/;

/** Epoch milliseconds of `YYYY-MM-DD` or ISO 8601 (UTC where no offset is written); NaN where the text is neither. */
export function parseTime(text: string): number {
  const day = parseDate(text);
  if (day !== null) return day * DAY;
  if (!ISO.test(text) || parseDate(text.slice(0, 10)) === null) return NaN;
  const zoned = /(Z|[+-]\d{2}:?\d{2})$/.test(text) ? text : `${text}Z`;
  return Date.parse(zoned.replace(" ", "T"));
}

/**
 * Reads bars from CSV text: a header row, columns by name in any order and letter case, others ignored. A broken line is
 * left out and reported, never repaired; of two lines of one time the earlier stays.
 */
export function readBarsCsv(text: string): CsvBars {
  const empty = (fatal: string): CsvBars => ({ bars: emptyBars(0), problems: [], fatal });
  const source = text.charCodeAt(0) === 0xfeff ? text.slice(1) : text;
  if (source.trim() === "") return empty("the file is empty");
  const delimiter = guessDelimiter(source);
  const rows = Papa.parse<string[]>(source, { delimiter }).data;
  const header = rows[0].map((name) => name.trim().toLowerCase());
  const column = (name: string) => header.indexOf(name);
  const at = {
    date: column("date"),
    time: column("time"),
    open: column("open"),
    high: column("high"),
    low: column("low"),
    close: column("close"),
  };
  const volumeAt = column("volume");
  const missing = (["open", "high", "low", "close"] as const).filter((name) => at[name] < 0).map((name) => `“${name}”`);
  if (at.date < 0 && at.time < 0) missing.unshift("“time” or “date”");
  if (missing.length > 0)
    return empty(
      `line 1: no column ${missing.join(", ")}; the header names ${
        header
          .filter(Boolean)
          .map((name) => `“${name}”`)
          .join(", ") || "nothing"
      }`,
    );
  const bars = emptyBars(rows.length - 1);
  const lines = new Float64Array(rows.length - 1);
  const problems: LineProblem[] = [];
  let count = 0;
  for (let i = 1; i < rows.length; i++) {
    const row = rows[i];
    const line = i + 1;
    if (row.length === 1 && row[0].trim() === "") continue;
    const cell = (index: number) => (index < row.length ? row[index].trim() : "");
    const stamp = at.date < 0 ? cell(at.time) : at.time < 0 ? cell(at.date) : `${cell(at.date)}T${cell(at.time)}`;
    const time = parseTime(stamp);
    if (Number.isNaN(time)) {
      problems.push({ line, message: `“${stamp}” is not a date (write YYYY-MM-DD or ISO 8601)` });
      continue;
    }
    let fault: string | null = null;
    const figure = (name: string, index: number): number => {
      const value = cell(index);
      if (NUMBER.test(value)) return Number(value);
      fault ??= value === "" ? `${name} is missing` : `${name} “${value}” is not a number`;
      return NaN;
    };
    const open = figure("open", at.open);
    const high = figure("high", at.high);
    const low = figure("low", at.low);
    const close = figure("close", at.close);
    const volume = volumeAt < 0 || cell(volumeAt) === "" ? 0 : figure("volume", volumeAt);
    fault ??= barFault(open, high, low, close, volume);
    if (fault === null && count > 0 && time <= bars.time[count - 1])
      fault =
        time === bars.time[count - 1] ? `the time stands already on line ${lines[count - 1]}` : "the time is before that of the line above";
    if (fault !== null) {
      problems.push({ line, message: fault });
      continue;
    }
    bars.time[count] = time;
    bars.open[count] = open;
    bars.high[count] = high;
    bars.low[count] = low;
    bars.close[count] = close;
    bars.volume[count] = volume;
    lines[count++] = line;
  }
  return { bars: sliceBars(bars, 0, count), problems, fatal: null };
}

function guessDelimiter(text: string): string {
  const first = text.slice(0, text.search(/\r?\n|$/));
  return [",", ";", "\t"].reduce((best, d) => (first.split(d).length > first.split(best).length ? d : best), ",");
}

/** Bars as CSV text: ISO 8601 times, comma, point; plain dates where every bar starts at 00:00 UTC. */
export function writeBarsCsv(bars: Bars): string {
  const daily = bars.time.every((time) => time % DAY === 0);
  const lines = ["time,open,high,low,close,volume"];
  for (let i = 0; i < bars.length; i++) {
    const stamp = new Date(bars.time[i]).toISOString();
    lines.push(`${daily ? stamp.slice(0, 10) : stamp},${bars.open[i]},${bars.high[i]},${bars.low[i]},${bars.close[i]},${bars.volume[i]}`);
  }
  return lines.join("\n") + "\n";
}
