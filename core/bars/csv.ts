import type { Bars } from "./bars";
import { emptyBars } from "./bars";
import { guessFormat, withoutMark, type CsvGuess } from "./csv-format";
import { CsvReader, timesOfRows, type CsvBars } from "./csv-reader";
import { DAY } from "./timeframe";

/** Guesses how a file is written from its beginning; `torn` where more text follows. */
export const guessCsv = (text: string, torn = false): CsvGuess => guessFormat(text, torn, timesOfRows);

/**
 * Reads bars from the whole text of a CSV file whose format is guessed: a header row, columns by name in any order and
 * letter case, others ignored. Times stay as they stand, in UTC where they carry no offset. What the file alone doesn't
 * tell is fatal, with the question.
 */
export function readBarsCsv(text: string): CsvBars {
  const none = (fatal: string): CsvBars => ({ bars: emptyBars(0), problems: [], rejected: 0, fatal });
  if (withoutMark(text).trim() === "") return none("the file is empty");
  const { format, doubts, names } = guessFormat(text, false, timesOfRows, true);
  const reader = new CsvReader(format, true);
  if (doubts.length > 0) return none(doubts[0].question);
  reader.push(text);
  const read = reader.finish();
  if (read.fatal?.includes("no column"))
    read.fatal += `; the header names ${
      names
        .filter(Boolean)
        .map((name) => `“${name.toLowerCase().slice(0, 40)}”`)
        .join(", ") || "nothing"
    }`;
  return read;
}

/** Bars as CSV text, in pieces: ISO 8601 times, comma, point; plain dates where every bar starts at 00:00 UTC. */
export function* barsCsvLines(bars: Bars): Generator<string> {
  const daily = bars.time.every((time) => time % DAY === 0);
  yield "time,open,high,low,close,volume\n";
  const piece = 4096;
  for (let start = 0; start < bars.length; start += piece) {
    let text = "";
    for (let i = start; i < Math.min(bars.length, start + piece); i++) {
      const stamp = new Date(bars.time[i]).toISOString();
      text += `${daily ? stamp.slice(0, 10) : stamp},${bars.open[i]},${bars.high[i]},${bars.low[i]},${bars.close[i]},${bars.volume[i]}\n`;
    }
    yield text;
  }
}

/** Bars as one CSV text. */
export const writeBarsCsv = (bars: Bars): string => [...barsCsvLines(bars)].join("");
