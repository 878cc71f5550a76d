import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { fixtureBars, fixtureJson } from "#core/testing/fixtures";
import {
  barFault,
  compareTimeframes,
  DAY,
  packBars,
  unpackBars,
  firstAtOrAfter,
  formatTimeframe,
  hashBars,
  MarketCalendar,
  parseDate,
  parseTimeframe,
  readBarsCsv,
  resample,
  resampleFault,
  sessionDates,
  weekdayOf,
  writeBarsCsv,
  Zone,
} from ".";

describe("resamplings with known results", () => {
  for (const item of fixtureJson("bars.json"))
    it(`${item.name}: ${item.timeframe} to ${item.to}${item.market ? ` of ${item.market}` : ""}`, () => {
      const session = item.market ? fixtureJson(item.market).session : null;
      const { bars } = resample(
        fixtureBars(item.bars),
        parseTimeframe(item.timeframe)!,
        parseTimeframe(item.to)!,
        new MarketCalendar(session),
      );
      expect(bars.length).toBe(item.count);
      for (const column of ["open", "high", "low", "close", "volume"] as const)
        expect(bars[column].reduce((a, b) => a + b, 0)).toBeCloseTo(item.sums[column], 6);
      for (const [row, time, open, high, low, close, volume] of item.probes) {
        expect(new Date(bars.time[row]).toISOString()).toBe(time);
        expect([bars.open[row], bars.high[row], bars.low[row], bars.close[row], bars.volume[row]]).toEqual([
          open,
          high,
          low,
          close,
          volume,
        ]);
      }
    });

  it("refuses what can't be resampled", () => {
    const fault = (from: string, to: string) => resampleFault(parseTimeframe(from)!, parseTimeframe(to)!);
    expect(fault("1d", "1h")).toMatch(/coarser/);
    expect(fault("20m", "30m")).toMatch(/multiple/);
    expect(fault("1w", "1M")).toMatch(/daily/);
    expect(fault("5m", "20m")).toBe(null);
  });
});

describe("timeframes", () => {
  it("are read and written", () => {
    for (const text of ["1m", "5m", "20m", "90m", "1h", "3h", "1d", "1w", "1M"]) expect(formatTimeframe(parseTimeframe(text)!)).toBe(text);
    expect(formatTimeframe(parseTimeframe("60m")!)).toBe("1h");
    for (const text of ["0m", "2d", "1x", "", "1441m", "25h", "m", "1D"]) expect(parseTimeframe(text)).toBe(null);
  });
  it("have an order", () => {
    const order = ["1m", "1h", "1440m", "1d", "1w", "1M"].map((text) => parseTimeframe(text)!);
    for (let i = 1; i < order.length; i++) expect(compareTimeframes(order[i - 1], order[i])).toBeLessThan(0);
  });
});

describe("calendars", () => {
  const hours = { zone: "Europe/Copenhagen", open: "09:00", close: "17:30", days: [1, 2, 3, 4, 5] };
  const day = (text: string) => parseDate(text)!;

  it("keep local time in winter and in summer", () => {
    const calendar = new MarketCalendar(hours);
    expect(new Date(calendar.span(day("2024-01-15"))!.open).toISOString()).toBe("2024-01-15T08:00:00.000Z");
    expect(new Date(calendar.span(day("2024-07-15"))!.open).toISOString()).toBe("2024-07-15T07:00:00.000Z");
    expect(calendar.span(day("2024-07-14"))).toBe(null);
  });

  it("know holidays and early closes", () => {
    const calendar = new MarketCalendar({ ...hours, holidays: ["2024-12-25"], earlyCloses: { "2024-12-24": "13:00" } });
    expect(calendar.span(day("2024-12-25"))).toBe(null);
    expect(new Date(calendar.closeOf(day("2024-12-24"))).toISOString()).toBe("2024-12-24T12:00:00.000Z");
    expect(calendar.endOf(day("2024-12-24") * DAY, parseTimeframe("1d")!)).toBe(Date.parse("2024-12-24T12:00:00Z"));
  });

  it("give a session over midnight the day on which it closes", () => {
    const calendar = new MarketCalendar({ zone: "UTC", open: "22:00", close: "06:00", days: [1, 2, 3, 4, 5] });
    expect(calendar.dateOf(Date.parse("2024-03-03T23:00:00Z"), parseTimeframe("15m")!)).toBe(day("2024-03-04"));
    expect(calendar.sessionAt(Date.parse("2024-03-04T12:00:00Z"))).toBe(null);
  });

  it("end weeks and months at their last session day", () => {
    const calendar = new MarketCalendar({ ...hours, holidays: ["2024-03-29"] });
    expect(new Date(calendar.endOf(day("2024-03-25") * DAY, parseTimeframe("1w")!)).toISOString()).toBe("2024-03-28T16:30:00.000Z");
    expect(new Date(calendar.endOf(day("2024-06-03") * DAY, parseTimeframe("1M")!)).toISOString()).toBe("2024-06-28T15:30:00.000Z");
    expect(new MarketCalendar(null).endOf(day("2024-02-05") * DAY, parseTimeframe("1M")!)).toBe(Date.parse("2024-03-01T00:00:00Z"));
  });

  it("take a local time that does not exist with the offset before, of one that exists twice the first", () => {
    const zone = new Zone("Europe/Copenhagen");
    expect(new Date(zone.instant(day("2024-03-31"), 150)).toISOString()).toBe("2024-03-31T01:30:00.000Z");
    expect(new Date(zone.instant(day("2024-10-27"), 150)).toISOString()).toBe("2024-10-27T00:30:00.000Z");
  });

  it("number the weekdays from Monday", () => {
    expect(weekdayOf(day("2024-01-01"))).toBe(1);
    expect(weekdayOf(day("1969-12-28"))).toBe(7);
  });

  it("give a session date to every bar", () => {
    const bars = fixtureBars("data/gale-15m.csv");
    const calendar = new MarketCalendar(fixtureJson("data/market-gale.json").session);
    const dates = sessionDates(bars.time, parseTimeframe("15m")!, calendar);
    for (let i = 1; i < dates.length; i++) expect(dates[i]).toBeGreaterThanOrEqual(dates[i - 1]);
  });
});

describe("CSV", () => {
  it("names columns in any order and case, passes over others, and takes a missing volume as 0", () => {
    const { bars, problems } = readBarsCsv("Close;HIGH;low;Open;Time;flag\r\n2;3;1;1.5;2024-01-02;x\r\n\r\n");
    expect(problems).toEqual([]);
    expect([bars.open[0], bars.high[0], bars.low[0], bars.close[0], bars.volume[0]]).toEqual([1.5, 3, 1, 2, 0]);
  });

  it("reports every broken line with its number and leaves it out", () => {
    const text = [
      "date,open,high,low,close,volume",
      "2024-01-02,1,2,0.5,1.5,10",
      "2024-13-02,1,2,0.5,1.5,10",
      "2024-01-03,1,,0.5,1.5,10",
      "2024-01-04,1,2,0.5,abc,10",
      "2024-01-05,1,2,1.2,1.5,10",
      "2024-01-08,1,2,0.5,1.5,-1",
      "2024-01-02,1,2,0.5,1.5,10",
      "2024-01-01,1,2,0.5,1.5,10",
      "2024-01-09,1,2,0.5,1.5,1e3",
    ].join("\n");
    const { bars, problems } = readBarsCsv(text);
    expect(bars.length).toBe(2);
    expect(problems.map((p) => p.line)).toEqual([3, 4, 5, 6, 7, 8, 9]);
    expect(problems.map((p) => p.message)).toEqual([
      "“2024-13-02” is not a date (write YYYY-MM-DD or ISO 8601)",
      "high is missing",
      "close “abc” is not a number",
      "low is above open or close",
      "volume is negative",
      "the time stands already on line 2",
      "the time is before that of the line above",
    ]);
  });

  it("stops at a file that is empty or lacks columns", () => {
    expect(readBarsCsv("  \n").fatal).toBe("the file is empty");
    expect(readBarsCsv("day,open,high,low,close\n").fatal).toMatch(/no column “time” or “date”/);
  });

  it("is read back as it was written, to the last bit", () => {
    const bars = fixtureBars("data/shore10-5m.csv");
    expect(hashBars(readBarsCsv(writeBarsCsv(bars)).bars)).toBe(hashBars(bars));
  });

  it("never throws, whatever the text", () => {
    fc.assert(
      fc.property(fc.string(), (text) => {
        readBarsCsv(text);
        readBarsCsv(`date,open,high,low,close\n${text}`);
      }),
    );
  });
});

describe("columns", () => {
  it("come back from their bytes unchanged, and say when the bytes are others", () => {
    const bars = fixtureBars("data/kelp-1d.csv");
    const bytes = packBars(bars);
    expect(hashBars(unpackBars(bytes))).toBe(hashBars(bars));
    expect(() => unpackBars(bytes.slice(0, bytes.length - 3))).toThrow(/cut short/);
    expect(() => unpackBars(new Uint8Array(40))).toThrow(/not columns/);
  });

  it("find the first row at or after a time", () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: -50, max: 50 })), fc.integer({ min: -60, max: 60 }), (times, at) => {
        const sorted = [...times].sort((a, b) => a - b);
        const expected = sorted.findIndex((time) => time >= at);
        expect(firstAtOrAfter(sorted, at)).toBe(expected < 0 ? sorted.length : expected);
      }),
    );
  });

  it("tell what breaks a bar", () => {
    expect(barFault(1, 2, 0, 1, 0)).toBe(null);
    expect(barFault(-1, 0, -2, -1, 0)).toBe(null);
    expect(barFault(1, 0.5, 0, 1, 0)).toMatch(/high/);
    expect(barFault(1, 2, 0, NaN, 0)).toMatch(/close is not a number/);
  });
});
