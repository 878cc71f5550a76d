import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { emptyBars, type Bars } from "#core/bars";
import { Random } from "#core/random";
import { dateBlocks, permutedBars } from ".";

function walk(length: number, seed: number): Bars {
  const random = new Random(seed);
  const bars = emptyBars(length);
  let price = 100;
  for (let i = 0; i < length; i++) {
    bars.time[i] = i * 3_600_000;
    bars.open[i] = price * (1 + 0.002 * random.normal());
    price = bars.open[i] * (1 + 0.01 * random.normal());
    bars.close[i] = price;
    bars.high[i] = Math.max(bars.open[i], price) * 1.001;
    bars.low[i] = Math.min(bars.open[i], price) * 0.999;
    bars.volume[i] = i;
  }
  return bars;
}

const returns = (bars: Bars, from: number, to: number) =>
  Array.from({ length: to - from }, (_, k) => Math.log(bars.close[from + k] / bars.close[from + k - 1])).sort((a, b) => a - b);

describe("bars in another order", () => {
  it("hold the same days between the same first and last price, and nothing outside changes", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 9 }), fc.integer({ min: 0, max: 1e6 }), (days, seed) => {
        const bars = walk(240, 5);
        const dates = Array.from({ length: 240 }, (_, i) => Math.floor(i / 6));
        const made = permutedBars(bars, dateBlocks(dates, 30, 210, days), new Random(seed));
        expect([...made.time]).toEqual([...bars.time]);
        expect([...made.close.slice(0, 30)]).toEqual([...bars.close.slice(0, 30)]);
        expect([...made.close.slice(210)]).toEqual([...bars.close.slice(210)]);
        expect(made.close[209]).toBeCloseTo(bars.close[209], 8);
        const [own, theirs] = [returns(made, 30, 210), returns(bars, 30, 210)];
        own.forEach((value, i) => expect(value).toBeCloseTo(theirs[i], 10));
        expect([...made.volume].sort((a, b) => a - b)).toEqual([...bars.volume]);
        for (let i = 0; i < 240; i++) {
          expect(made.high[i]).toBeGreaterThanOrEqual(Math.max(made.open[i], made.close[i]));
          expect(made.low[i]).toBeLessThanOrEqual(Math.min(made.open[i], made.close[i]));
        }
      }),
      { numRuns: 40 },
    );
  });

  it("are the same again by the same seed and stream, and others by another", () => {
    const bars = walk(200, 6);
    const dates = Array.from({ length: 200 }, (_, i) => i);
    const of = (stream: number) => [...permutedBars(bars, dateBlocks(dates, 0, 200, 5), new Random(3, stream)).close];
    expect(of(1)).toEqual(of(1));
    expect(of(1)).not.toEqual(of(2));
  });

  it("keep to the tick", () => {
    const made = permutedBars(walk(120, 7), { starts: [0, 20, 40, 60, 80, 100], end: 120 }, new Random(1), 0.25);
    expect([...made.close].every((price) => Number.isInteger(price / 0.25))).toBe(true);
  });
});
