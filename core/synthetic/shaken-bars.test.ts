import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { emptyBars, type Bars } from "#core/bars";
import { Random } from "#core/random";
import { drawnBars, noisyBars } from ".";

/** Days of four or six bars, each bar with a body and shadows. */
function walk(days: number, seed: number): { bars: Bars; dates: number[] } {
  const random = new Random(seed);
  const dates = Array.from({ length: days }, (_, day) => Array<number>(day % 5 === 4 ? 4 : 6).fill(day)).flat();
  const bars = emptyBars(dates.length);
  let price = 100;
  dates.forEach((date, i) => {
    bars.time[i] = date * 86_400_000 + i;
    bars.open[i] = price * (1 + 0.002 * random.normal());
    price = bars.open[i] * (1 + 0.01 * random.normal());
    bars.close[i] = price;
    bars.high[i] = Math.max(bars.open[i], price) * 1.001;
    bars.low[i] = Math.min(bars.open[i], price) * 0.999;
    bars.volume[i] = i;
  });
  return { bars, dates };
}

const shaped = (bars: Bars, i: number) =>
  bars.low[i] <= Math.min(bars.open[i], bars.close[i]) && bars.high[i] >= Math.max(bars.open[i], bars.close[i]) && bars.low[i] > 0;

describe("bars with noise", () => {
  it("keep their shape, their times and what lies outside, and move as far as they are told to", () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1e6 }), (seed) => {
        const { bars } = walk(60, 3);
        const scale = new Float64Array(bars.length).fill(0.5);
        scale[40] = NaN;
        const made = noisyBars(bars, { first: 10, end: 200 }, scale, new Random(seed));
        expect([...made.time]).toEqual([...bars.time]);
        expect([...made.close.slice(0, 10)]).toEqual([...bars.close.slice(0, 10)]);
        expect(made.close[40]).toBe(bars.close[40]);
        for (let i = 0; i < made.length; i++) expect(shaped(made, i)).toBe(true);
        const moved = Array.from({ length: 190 }, (_, k) => made.close[10 + k] - bars.close[10 + k]);
        const deviation = Math.sqrt(moved.reduce((sum, x) => sum + x * x, 0) / 189);
        expect(deviation).toBeGreaterThan(0.4);
        expect(deviation).toBeLessThan(0.6);
      }),
      { numRuns: 30 },
    );
  });

  it("come in ticks", () => {
    const { bars } = walk(20, 3);
    const made = noisyBars(bars, { first: 0, end: bars.length }, new Float64Array(bars.length).fill(1), new Random(1), 0.25);
    for (const price of made.close) expect(price / 0.25).toBe(Math.round(price / 0.25));
  });
});

describe("histories drawn from days", () => {
  it("are made of whole days of the real one, each with as many bars as the day that it stands for", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 30 }), fc.integer({ min: 0, max: 1e6 }), (days, seed) => {
        const { bars, dates } = walk(80, 5);
        const [first, end] = [dates.indexOf(5), dates.indexOf(75)];
        const made = drawnBars(bars, dates, { first, end }, days, new Random(seed));
        const move = (of: Bars, i: number) => Math.log(of.close[i] / of.close[i - 1]);
        for (let i = first; i < end; i++) {
          // volume tells which bar it was
          const from = made.volume[i];
          expect(from >= first && from < end).toBe(true);
          expect(move(made, i)).toBeCloseTo(move(bars, from), 10);
          expect(made.open[i] / made.close[i]).toBeCloseTo(bars.open[from] / bars.close[from], 10);
          if (i > first && dates[i] === dates[i - 1]) expect(from).toBe(made.volume[i - 1] + 1);
        }
        expect([...made.close.slice(0, first)]).toEqual([...bars.close.slice(0, first)]);
        expect([...made.close.slice(end)]).toEqual([...bars.close.slice(end)]);
      }),
    );
  });

  it("come in blocks of the length that is asked for, on average", () => {
    const { bars } = walk(2000, 9);
    const dates = Array.from({ length: bars.length }, (_, i) => i);
    const made = drawnBars(bars, dates, { first: 1, end: bars.length }, 20, new Random(4));
    let blocks = 1;
    for (let i = 2; i < bars.length; i++) if (made.volume[i] !== made.volume[i - 1] + 1) blocks++;
    expect((bars.length - 1) / blocks).toBeGreaterThan(17);
    expect((bars.length - 1) / blocks).toBeLessThan(23);
  });
});
