import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { DAY, emptyBars, type Bars } from "#core/bars";
import * as indicators from ".";

/** Series with missing values now and then, and lengths. */
const series = fc
  .array(
    fc.oneof({ weight: 9, arbitrary: fc.integer({ min: -400, max: 400 }).map((x) => x / 4) }, { weight: 1, arbitrary: fc.constant(NaN) }),
    { minLength: 1, maxLength: 60 },
  )
  .map((x) => Float64Array.from(x));
const length = fc.integer({ min: 1, max: 12 });

/** A function of a window computed from its definition: missing before n values, and where the window holds a missing one. */
function byWindow(x: Float64Array, n: number, f: (window: number[]) => number): Float64Array {
  return x.map((_, i) => {
    const window = Array.from(x.subarray(Math.max(0, i - n + 1), i + 1));
    return window.length < n || window.some(Number.isNaN) ? NaN : f(window);
  });
}

const add = (window: number[]) => window.reduce((a, b) => a + b, 0);
const mean = (window: number[]) => add(window) / window.length;
const same = (got: Float64Array, want: Float64Array) => {
  expect(got.length).toBe(want.length);
  got.forEach((value, i) =>
    Number.isNaN(want[i]) ? expect(value, `bar ${i}`).toBeNaN() : expect(value, `bar ${i}`).toBeCloseTo(want[i], 9),
  );
};

function barsOf(closes: number[]): Bars {
  const bars = emptyBars(closes.length);
  closes.forEach((close, i) => {
    const open = i === 0 ? close : closes[i - 1];
    bars.time[i] = i * DAY;
    bars.open[i] = open;
    bars.close[i] = close;
    bars.high[i] = Math.max(open, close) + 1;
    bars.low[i] = Math.min(open, close) - 1;
  });
  return bars;
}

describe("functions of a window equal their definition", () => {
  const cases: [name: string, ours: (x: Float64Array, n: number) => Float64Array, definition: (window: number[]) => number][] = [
    ["sma", indicators.sma, mean],
    ["sum", indicators.sum, add],
    ["highest", indicators.highest, (w) => Math.max(...w)],
    ["lowest", indicators.lowest, (w) => Math.min(...w)],
    ["wma", indicators.wma, (w) => add(w.map((x, i) => x * (i + 1))) / ((w.length * (w.length + 1)) / 2)],
    ["stdev", indicators.stdev, (w) => Math.sqrt(mean(w.map((x) => (x - mean(w)) ** 2)))],
    ["median", indicators.median, (w) => ((s) => (s[(s.length - 1) >> 1] + s[s.length >> 1]) / 2)([...w].sort((a, b) => a - b))],
  ];
  it.each(cases)("%s", (_name, ours, definition) => {
    fc.assert(fc.property(series, length, (x, n) => same(ours(x, n), byWindow(x, n, definition))));
  });

  it("the deviation of equal values is exactly 0, however odd the value", () => {
    const x = new Float64Array(30).fill(0.1 + 0.2);
    expect([...indicators.stdev(x, 7).subarray(6)]).toEqual(new Array(24).fill(0));
  });

  it("a long running sum does not drift", () => {
    const x = Float64Array.from({ length: 20_000 }, (_, i) => 1e6 + Math.sin(i) * 1e-3);
    const exact = byWindow(x.subarray(19_900), 20, mean);
    const ours = indicators.sma(x, 20).subarray(19_900);
    for (let i = 19; i < 100; i++) expect(Math.abs(ours[i] - exact[i])).toBeLessThan(1e-7);
  });
});

describe("averages with a memory", () => {
  it("begin at the first window's mean, and anew after a missing value", () => {
    const x = Float64Array.from([1, 3, 5, NaN, 2, 4, 8]);
    const out = indicators.ema(x, 2);
    expect([...out.subarray(0, 1)]).toEqual([NaN]);
    expect(out[1]).toBe(2);
    expect(out[2]).toBeCloseTo(2 + (2 / 3) * 3, 12);
    expect(out[3]).toBeNaN();
    expect(out[4]).toBeNaN();
    expect(out[5]).toBe(3);
    expect(indicators.wilder(x, 2)[2]).toBe(3.5);
  });

  it("stay where the series stays", () => {
    fc.assert(
      fc.property(fc.integer({ min: -50, max: 50 }), length, (level, n) => {
        const x = new Float64Array(30).fill(level);
        for (const f of [indicators.ema, indicators.wilder]) expect([...f(x, n).subarray(n - 1)]).toEqual(new Array(31 - n).fill(level));
      }),
    );
  });
});

describe("strength, change, channels", () => {
  it("rsi is 100 where nothing fell, 50 where nothing moved, 0 where nothing rose", () => {
    const at = (x: number[]) => indicators.rsi(Float64Array.from(x), 3).at(-1);
    expect(at([1, 2, 3, 4, 5])).toBe(100);
    expect(at([2, 2, 2, 2, 2])).toBe(50);
    expect(at([5, 4, 3, 2, 1])).toBe(0);
    expect([...indicators.rsi(Float64Array.from([1, 2, 1, 2]), 3).subarray(0, 3)]).toEqual([NaN, NaN, NaN]);
  });

  it("change and roc look n bars back; roc is missing where that was 0", () => {
    expect([...indicators.change(Float64Array.from([1, 4, 9]), 1)]).toEqual([NaN, 3, 5]);
    expect([...indicators.roc(Float64Array.from([2, 3, 0, 5]), 1)]).toEqual([NaN, 50, -100, NaN]);
    expect([...indicators.back(Float64Array.from([1, 2]), 5)]).toEqual([NaN, NaN]);
  });

  it("the true range takes gaps in; its average is Wilder's", () => {
    const bars = barsOf([10, 15, 12]);
    expect([...indicators.trueRange(bars)]).toEqual([2, 7, 5]);
    expect(indicators.atr(bars, 2)[2]).toBe(4.5 + (5 - 4.5) / 2);
  });

  it("the parts of macd, bollinger and donchian fit together", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 10, max: 500 }), { minLength: 20, maxLength: 60 }), (closes) => {
        const bars = barsOf(closes);
        const { line, signal, histogram } = indicators.macd(bars.close, 3, 6, 4);
        histogram.forEach((value, i) => !Number.isNaN(value) && expect(value).toBeCloseTo(line[i] - signal[i], 12));
        const bands = indicators.bollinger(bars.close, 5, 2);
        bands.middle.forEach((middle, i) => !Number.isNaN(middle) && expect((bands.upper[i] + bands.lower[i]) / 2).toBeCloseTo(middle, 9));
        const channel = indicators.donchian(bars, 4);
        channel.upper.forEach((upper, i) => !Number.isNaN(upper) && expect(upper).toBeGreaterThanOrEqual(bars.high[i]));
      }),
    );
  });
});
