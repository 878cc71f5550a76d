import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { CsvReader, emptyBars, guessCsv, hashBars, parseDate, DAY, MINUTE, writeBarsCsv, type CsvFormat } from ".";

const read = (text: string, change: Partial<CsvFormat> = {}) => {
  const { format } = guessCsv(text);
  const reader = new CsvReader({ ...format, ...change });
  reader.push(text);
  return reader.finish();
};
const iso = (times: ArrayLike<number>) => Array.from(times, (time) => new Date(time).toISOString().slice(0, 16));

describe("the guess", () => {
  it("sees delimiter, decimal comma and day-first dates", () => {
    const guess = guessCsv("Datum;Open;High;Low;Close\n");
    expect(guess.format.delimiter).toBe(";");
    const text = "Date;Open;High;Low;Close;Vol\n13/02/2024;10,5;11,25;10;11;5\n14/02/2024;11;12;10,5;11,5;7\n";
    const { format, doubts } = guessCsv(text);
    expect(format).toMatchObject({ delimiter: ";", decimal: ",", time: "dayFirst", timeframe: "1d", header: true });
    expect(doubts).toEqual([]);
    const { bars, rejected } = read(text);
    expect(rejected).toBe(0);
    expect(Array.from(bars.high)).toEqual([11.25, 12]);
    expect(iso(bars.time)).toEqual(["2024-02-13T00:00", "2024-02-14T00:00"]);
  });

  it("asks where no date tells the day from the month", () => {
    const { doubts } = guessCsv("date,open,high,low,close\n01/02/2024,1,1,1,1\n02/02/2024,1,1,1,1\n");
    expect(doubts[0].question).toMatch(/day first or the month first/);
  });

  it("tells epoch seconds from milliseconds, and compact dates", () => {
    const seconds = "ts,o,h,l,c\n1704103200,1,1,1,1\n1704103260,1,1,1,1\n";
    expect(guessCsv(seconds).format).toMatchObject({ time: "seconds", timeframe: "1m" });
    expect(iso(read(seconds).bars.time)).toEqual(["2024-01-01T10:00", "2024-01-01T10:01"]);
    expect(guessCsv("time,open,high,low,close\n1704103200000,1,1,1,1\n").format.time).toBe("milliseconds");
    const compact = "20240101,090000,1,1,1,1,5\n20240101,090500,1,1,1,1,5\n";
    const { format } = guessCsv(compact);
    expect(format).toMatchObject({ header: false, time: "compact", timeframe: "5m", columns: { date: 0, time: 1, open: 2, volume: 6 } });
    expect(iso(read(compact).bars.time)).toEqual(["2024-01-01T09:00", "2024-01-01T09:05"]);
  });

  it("notices that the newest line comes first", () => {
    const text = "date,open,high,low,close\n2024-01-03,3,3,3,3\n2024-01-02,2,2,2,2\n2024-01-01,1,1,1,1\n";
    const { bars, rejected } = read(text);
    expect(rejected).toBe(0);
    expect(Array.from(bars.close)).toEqual([1, 2, 3]);
  });
});

describe("stamps", () => {
  const rows = "time,open,high,low,close\n2024-07-01 09:05,1,1,1,1\n2024-07-01 09:10,1,1,1,1\n";

  it("are local to the zone, summer and winter, and may be ends", () => {
    expect(iso(read(rows, { zone: "Europe/Copenhagen" }).bars.time)).toEqual(["2024-07-01T07:05", "2024-07-01T07:10"]);
    expect(iso(read(rows, { zone: "Europe/Copenhagen", stamp: "end" }).bars.time)).toEqual(["2024-07-01T07:00", "2024-07-01T07:05"]);
    expect(iso(read(rows.replaceAll("-07-", "-01-"), { zone: "Europe/Copenhagen" }).bars.time)[0]).toBe("2024-01-01T08:05");
  });

  it("of daily bars are their dates: midnight at the end belongs to the day before", () => {
    const daily = "time,open,high,low,close\n2024-07-02 00:00,1,1,1,1\n2024-07-03 00:00,1,1,1,1\n";
    expect(iso(read(daily).bars.time)[0]).toBe("2024-07-02T00:00");
    expect(iso(read(daily, { stamp: "end" }).bars.time)[0]).toBe("2024-07-01T00:00");
  });

  it("with an offset of their own keep it, whatever the zone", () => {
    const text = "time,open,high,low,close\n2024-07-01T09:05:00+02:00,1,1,1,1\n2024-07-01T09:06:00+02:00,1,1,1,1\n";
    expect(iso(read(text, { zone: "America/New_York" }).bars.time)[0]).toBe("2024-07-01T07:05");
  });
});

describe("the reader", () => {
  const bars = emptyBars(300);
  for (let i = 0; i < 300; i++) {
    bars.time[i] = parseDate("2024-01-01")! * DAY + i * MINUTE;
    bars.open[i] = bars.close[i] = 100 + i / 4;
    bars.high[i] = bars.open[i] + 1;
    bars.low[i] = bars.open[i] - 1;
    bars.volume[i] = i;
  }
  const text = writeBarsCsv(bars);
  const { format } = guessCsv(text);

  it("gives the same bars however the text is torn", () => {
    fc.assert(
      fc.property(fc.array(fc.nat(text.length), { maxLength: 30 }), fc.constantFrom("\n", "\r\n"), (cuts, newline) => {
        const whole = text.replaceAll("\n", newline);
        const reader = new CsvReader(format);
        const places = [0, ...cuts.sort((a, b) => a - b), whole.length];
        for (let i = 1; i < places.length; i++) reader.push(whole.slice(places[i - 1], places[i]));
        const { bars: got, rejected, fatal } = reader.finish();
        expect(fatal).toBe(null);
        expect(rejected).toBe(0);
        expect(hashBars(got)).toBe(hashBars(bars));
      }),
      { numRuns: 60 },
    );
  });

  it("numbers lines by the file, quoted line ends and all", () => {
    const reader = new CsvReader(guessCsv('note,time,open,high,low,close\n"a",2024-01-01,1,1,1,1\n').format);
    reader.push('note,time,open,high,low,close\n"a\nb",2024-01-01,1,1,1,1\nx,2024-01-02,1,1,1,oops\n');
    expect(reader.finish().problems).toEqual([{ line: 3, message: "close “oops” is not a number" }]);
  });

  it("survives anything: bytes, torn lines, huge cells, NUL, mixed ends", () => {
    const piece = fc.oneof(
      fc.string({ unit: "binary", maxLength: 200 }),
      fc.constantFrom("\r", "\n", "\r\n", '"', '""', ",", ";", "\0", "\ufeff", "2024-01-01,1,2,0,1\n", "9".repeat(400)),
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 30 }), (pieces) => {
        const { format: guessed } = guessCsv(pieces.join("").slice(0, 300), true);
        for (const given of [format, guessed]) {
          const reader = new CsvReader(given);
          for (const part of pieces) reader.push(part);
          const { bars: got } = reader.finish();
          for (let i = 1; i < got.length; i++) expect(got.time[i]).toBeGreaterThan(got.time[i - 1]);
        }
      }),
      { numRuns: 300 },
    );
  });

  it("stops at lines that no file of bars has", () => {
    const huge = new CsvReader(format);
    huge.push(`${text}${"1,".repeat(200_000)}`);
    expect(huge.finish().fatal).toMatch(/longer than 100,000 characters/);
    const quoted = new CsvReader(format);
    for (let i = 0; i < 300; i++) quoted.push(`"${"x".repeat(9_000)}\n`.replace(/^"/, i === 0 ? '"' : ""));
    expect(quoted.finish().fatal).toMatch(/quotation mark that never closes/);
  });
});
