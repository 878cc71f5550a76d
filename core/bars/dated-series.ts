import Papa from "papaparse";
import { withoutMark } from "./csv-format";
import type { LineProblem } from "./csv-reader";
import { parseDate } from "./dates";
import { DAY } from "./timeframe";

/** Dated values, each valid from its time on until the next one. Times are epoch milliseconds and rise. */
export interface DatedSeries {
  time: number[];
  value: number[];
}

export interface SeriesCsv {
  /** by the name of the column */
  columns: Record<string, DatedSeries>;
  problems: LineProblem[];
  fatal: string | null;
}

const ISO = /^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}(:\d{2}(\.\d{1,3})?)?(Z|[+-]\d{2}:?\d{2})?$/;
const NUMBER = /^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/;

/** Epoch milliseconds of `YYYY-MM-DD` or ISO 8601 (UTC where no offset is written); NaN where the text is neither. */
export function parseTime(text: string): number {
  const day = parseDate(text);
  if (day !== null) return day * DAY;
  if (!ISO.test(text) || parseDate(text.slice(0, 10)) === null) return NaN;
  const zoned = /(Z|[+-]\d{2}:?\d{2})$/.test(text) ? text : `${text}Z`;
  return Date.parse(zoned.replace(" ", "T"));
}

/**
 * Reads dated values from CSV: a column `date` or `time`, and one or more of values (`value`, or one a symbol). An empty cell
 * says nothing; a date that is no date or a value that is no number is reported with its line.
 */
export function readSeriesCsv(text: string): SeriesCsv {
  const none = (fatal: string): SeriesCsv => ({ columns: {}, problems: [], fatal });
  const source = withoutMark(text);
  if (source.trim() === "") return none("the file is empty");
  const rows = Papa.parse<string[]>(source, { skipEmptyLines: false }).data;
  const header = rows[0].map((name) => name.trim());
  const at = header.findIndex((name) => ["date", "time"].includes(name.toLowerCase()));
  if (at < 0) return none("line 1: no column “date” or “time”");
  const names = header.map((name, i) => ({ name, i })).filter(({ name, i }) => i !== at && name !== "");
  if (names.length === 0) return none("line 1: no column of values");
  const values = new Map(names.map(({ name }) => [name, new Map<number, number>()]));
  const problems: LineProblem[] = [];
  for (let r = 1; r < rows.length; r++) {
    const row = rows[r];
    if (row.length === 1 && row[0].trim() === "") continue;
    const time = parseTime((row[at] ?? "").trim());
    if (Number.isNaN(time)) {
      problems.push({ line: r + 1, message: `“${(row[at] ?? "").trim().slice(0, 40)}” is not a date (write YYYY-MM-DD or ISO 8601)` });
      continue;
    }
    for (const { name, i } of names) {
      const cell = (row[i] ?? "").trim();
      if (cell === "") continue;
      if (!NUMBER.test(cell)) problems.push({ line: r + 1, message: `${name} “${cell.slice(0, 40)}” is not a number` });
      else values.get(name)!.set(time, Number(cell));
    }
  }
  const columns = Object.fromEntries(
    [...values].map(([name, points]) => {
      const time = [...points.keys()].sort((a, b) => a - b);
      return [name, { time, value: time.map((t) => points.get(t)!) }];
    }),
  );
  return { columns, problems, fatal: null };
}

/** The value in force at each of some times; NaN before the first. Both lists rise. */
export function valuesAt(series: DatedSeries, times: ArrayLike<number>): Float64Array {
  const out = new Float64Array(times.length).fill(NaN);
  let k = -1;
  for (let i = 0; i < times.length; i++) {
    while (k + 1 < series.time.length && series.time[k + 1] <= times[i]) k++;
    if (k >= 0) out[i] = series.value[k];
  }
  return out;
}
