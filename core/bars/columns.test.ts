import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { emptyBars, hashBars, joinBars, MINUTE, packBars, sliceBars, unpackBars, type Bars } from ".";

const made = (rows: { time: number; prices: number[]; volume: number }[]): Bars => {
  const bars = emptyBars(rows.length);
  rows.forEach((row, i) => {
    bars.time[i] = row.time;
    [bars.open[i], bars.high[i], bars.low[i], bars.close[i]] = row.prices;
    bars.volume[i] = row.volume;
  });
  return bars;
};

/** Prices as sources write them: on a tick, with decimals, or any float at all. */
const price = fc.oneof(
  fc.integer({ min: -400, max: 4000 }).map((n) => n * 0.25),
  fc.integer({ min: 0, max: 10_000_000 }).map((n) => n / 1e4),
  fc.double({ noNaN: true, noDefaultInfinity: true }),
);
const rows = fc.array(
  fc.record({
    time: fc.oneof(
      fc.integer({ min: -1000, max: 60_000_000 }).map((n) => n * MINUTE),
      fc.integer({ min: 0, max: 1e12 }),
    ),
    prices: fc.array(price, { minLength: 4, maxLength: 4 }),
    volume: fc.oneof(fc.integer({ min: 0, max: 1e9 }), fc.double({ min: 0, noNaN: true, noDefaultInfinity: true })),
  }),
  { maxLength: 40 },
);

describe("packed columns", () => {
  it("give back every bar to the last bit, whatever the figures", () => {
    fc.assert(
      fc.property(rows, (given) => {
        const bars = made(given);
        expect(hashBars(unpackBars(packBars(bars)))).toBe(hashBars(bars));
      }),
      { numRuns: 400 },
    );
  });

  it("tell bytes that are something else, or cut short", () => {
    const bytes = packBars(made([{ time: 0, prices: [1, 2, 0.5, 1.5], volume: 3 }]));
    for (let keep = 8; keep < bytes.length; keep++) expect(() => unpackBars(bytes.slice(0, keep))).toThrow();
    expect(() => unpackBars(Uint8Array.from([...bytes, 0]))).toThrow(/something follows/);
    expect(() => unpackBars(new Uint8Array(40))).toThrow(/not columns/);
  });

  it("take few bytes for prices on a tick", () => {
    const bars = emptyBars(1000);
    for (let i = 0; i < 1000; i++) {
      bars.time[i] = i * MINUTE;
      bars.open[i] = bars.close[i] = 100 + 0.25 * (i % 7);
      bars.high[i] = bars.open[i] + 0.5;
      bars.low[i] = bars.open[i] - 0.25;
      bars.volume[i] = i % 100;
    }
    expect(packBars(bars).length / 1000).toBeLessThan(8);
  });

  it("join to what was cut", () => {
    fc.assert(
      fc.property(rows, fc.nat(40), (given, cut) => {
        const bars = made(given);
        const at = Math.min(cut, bars.length);
        expect(hashBars(joinBars([sliceBars(bars, 0, at), sliceBars(bars, at, bars.length)]))).toBe(hashBars(bars));
      }),
      { numRuns: 50 },
    );
  });
});
