import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { emptyBars, hashBars, type Bars } from "#core/bars";
import { detailLevels, sharedBars } from "./detail";

function made(closes: readonly number[]): Bars {
  const bars = emptyBars(closes.length);
  closes.forEach((close, i) => {
    bars.time[i] = i;
    bars.open[i] = i === 0 ? close : closes[i - 1];
    bars.close[i] = close;
    bars.high[i] = Math.max(bars.open[i], close) + 1;
    bars.low[i] = Math.min(bars.open[i], close) - 1;
  });
  return bars;
}

describe("levels of detail", () => {
  it("hold every extreme, the first open and the last close of each bucket", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -50, max: 50 }), { minLength: 501, maxLength: 5000 }), (closes) => {
        const bars = made(closes);
        for (const level of detailLevels(bars)) {
          expect(level.high.length).toBe(Math.ceil(bars.length / level.step));
          for (let k = 0; k < level.high.length; k += 7) {
            const from = k * level.step;
            const to = Math.min(bars.length, from + level.step);
            expect(level.high[k]).toBe(Math.max(...bars.high.subarray(from, to)));
            expect(level.low[k]).toBe(Math.min(...bars.low.subarray(from, to)));
            expect(level.open[k]).toBe(bars.open[from]);
            expect(level.close[k]).toBe(bars.close[to - 1]);
          }
        }
      }),
      { numRuns: 25 },
    );
  });

  it("are none where all bars can be drawn, and end with a few hundred buckets", () => {
    expect(detailLevels(made(Array.from({ length: 500 }, (_, i) => i)))).toEqual([]);
    const levels = detailLevels(made(Array.from({ length: 40_000 }, (_, i) => i % 90)));
    expect(levels.map((level) => level.step)).toEqual([4, 16, 64, 256]);
    expect(levels.at(-1)!.high.length).toBeLessThanOrEqual(500);
  });

  it("and shared bars are the same bars", () => {
    const bars = made([1, 2, 3, 2]);
    expect(hashBars(sharedBars(bars))).toBe(hashBars(bars));
  });
});
