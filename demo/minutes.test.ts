import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { barFault, DAY, emptyBars, MarketCalendar, parseTimeframe, resample, type Bars } from "#core/bars";
import { SALTMARCH_HOURS } from "./calendar";
import { onTick } from "./generator";
import { makeMinutes } from "./minutes";
import { FeedClock } from "./feed/clock";

const day = fc
  .tuple(fc.integer({ min: 100, max: 140 }), fc.integer({ min: 100, max: 140 }), fc.nat(10), fc.nat(10))
  .map(([open, close, up, down]) => ({
    open: open / 2,
    close: close / 2,
    high: (Math.max(open, close) + up) / 2,
    low: (Math.min(open, close) - down) / 2,
  }));

function daily(days: readonly { open: number; high: number; low: number; close: number }[]): Bars {
  const bars = emptyBars(days.length);
  days.forEach((one, i) => {
    bars.time[i] = Date.UTC(2024, 2, 4) + (Math.floor(i / 5) * 7 + (i % 5)) * DAY;
    Object.assign(bars.open, { [i]: one.open });
    Object.assign(bars.high, { [i]: one.high });
    Object.assign(bars.low, { [i]: one.low });
    Object.assign(bars.close, { [i]: one.close });
    bars.volume[i] = 50_000;
  });
  return bars;
}

describe("minutes", () => {
  it("add up to their days to the last bit, whatever the days, over a change of the clocks", () => {
    fc.assert(
      fc.property(fc.array(day, { minLength: 1, maxLength: 20 }), fc.constantFrom(0, 0.3), fc.nat(1000), (days, opening, seed) => {
        const wanted = daily(days);
        const made = makeMinutes({ seed, tick: 0.5, opening, missing: 0.05 }, wanted, SALTMARCH_HOURS);
        for (let i = 0; i < made.length; i++)
          expect(barFault(made.open[i], made.high[i], made.low[i], made.close[i], made.volume[i])).toBe(null);
        const { bars, outside } = resample(made, parseTimeframe("1m")!, parseTimeframe("1d")!, new MarketCalendar(SALTMARCH_HOURS));
        expect(outside).toBe(0);
        for (const name of ["time", "open", "high", "low", "close"] as const)
          expect(Array.from(bars[name]), name).toEqual(Array.from(wanted[name]));
      }),
      { numRuns: 40 },
    );
  });

  it("of a day are the same whichever days are made with it", () => {
    const days = Array.from({ length: 10 }, (_, i) => ({ open: 50, high: 55 + i, low: 48, close: 52 }));
    const character = { seed: 5, tick: 0.5, opening: 0, missing: 0.02 };
    const all = makeMinutes(character, daily(days), SALTMARCH_HOURS);
    const few = makeMinutes(character, daily(days.slice(0, 3)), SALTMARCH_HOURS);
    expect(Array.from(all.close.subarray(0, few.length))).toEqual(Array.from(few.close));
  });
});

it("prices lie on their tick, without dust and without a negative zero", () => {
  fc.assert(
    fc.property(fc.double({ min: -1000, max: 1000, noNaN: true }), fc.constantFrom(0.01, 0.05, 0.1, 0.25, 0.5), (price, tick) => {
      const rounded = onTick(price, tick);
      expect(Math.abs(rounded - price)).toBeLessThanOrEqual(tick / 2 + 1e-6);
      expect(Math.abs(rounded / tick - Math.round(rounded / tick))).toBeLessThan(1e-6);
      expect(Object.is(rounded, -0)).toBe(false);
    }),
  );
});

it("the service's clock runs, changes its pace and goes forward, never back", () => {
  let world = 1000;
  const clock = new FeedClock(0, 60, () => world);
  world += 10;
  expect(clock.now()).toBe(600);
  clock.run(0);
  world += 1000;
  expect(clock.now()).toBe(600);
  clock.forward(400);
  clock.forward(-9999);
  expect([clock.now(), clock.speed]).toEqual([1000, 0]);
  clock.run(2);
  world += 5;
  expect(clock.now()).toBe(1010);
});
