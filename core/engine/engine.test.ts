import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { DAY, emptyBars, sliceBars, type Bars } from "#core/bars";
import { NO_COSTS, readSettings, readStrategy, type Settings, type Strategy } from "#core/documents";
import { closedByExit } from "#core/metrics";
import { backtest, prepareBacktest, tradesOf } from "#core/runs";
import { compileStrategy, simulate, excursion } from ".";

/** Bars from rows of open, high, low, close; one a day from 2024-01-01. */
function barsOf(...rows: [number, number, number, number][]): Bars {
  const bars = emptyBars(rows.length);
  rows.forEach(([open, high, low, close], i) => {
    bars.time[i] = Date.UTC(2024, 0, 1) + i * DAY;
    bars.open[i] = open;
    bars.high[i] = high;
    bars.low[i] = low;
    bars.close[i] = close;
  });
  return bars;
}

const strategyOf = (part: object): Strategy => {
  const read = readStrategy({ format: "canyon.strategy/1", timeframe: "1d", sizing: { mode: "units", value: 10 }, ...part });
  expect(read.problems).toEqual([]);
  return read.value!;
};
const settingsOf = (part: object = {}, market: object = {}): Settings => {
  const read = readSettings({
    format: "canyon.settings/1",
    markets: [{ symbol: "X", bars: "x", timeframe: "1d", tick: 1, ...market }],
    capital: 100_000,
    ...part,
  });
  expect(read.problems).toEqual([]);
  return read.value!;
};
const run = (strategy: object, bars: Bars, settings: object = {}, market: object = {}) => {
  const { result, problems } = backtest(strategyOf(strategy), settingsOf(settings, market), [bars]);
  expect(problems).toEqual([]);
  return result!;
};
const upOn = (close: number) => `close = ${close}`;

describe("fills", () => {
  const bars = barsOf([100, 101, 99, 100], [102, 104, 101, 103], [90, 95, 88, 94], [94, 99, 93, 98]);

  it("enter at the following open, buys at the ask and sells at the bid, slippage against", () => {
    const { trades } = run({ long: { enter: { when: upOn(100) }, exit: { when: upOn(94) } } }, bars, {
      costs: { spreadTicks: 2, slippageTicks: 1 },
    });
    expect(trades).toHaveLength(1);
    expect(trades[0]).toMatchObject({ entryPrice: 104, exitPrice: 92, exitReason: "rule", bars: 2, gross: -120, costs: 0, net: -120 });
  });

  it("leave by the gap: a stop below the open fills at the open", () => {
    const { trades } = run({ long: { enter: { when: upOn(100) } }, protect: { stop: { unit: "points", value: 5 } } }, bars);
    expect(trades[0]).toMatchObject({ entryPrice: 102, exitPrice: 90, exitReason: "stop", bars: 1 });
    expect(trades[0].r).toBeCloseTo(-12 / 5, 12);
  });

  it("let the mode decide where stop and target are both in one bar, and count that bar", () => {
    const wide = barsOf([100, 100, 100, 100], [100, 106, 94, 101], [101, 101, 101, 101]);
    const strategy = {
      long: { enter: { when: upOn(100) } },
      protect: { stop: { unit: "points", value: 5 }, target: { unit: "points", value: 5 } },
    };
    const careful = run(strategy, wide);
    const hopeful = run(strategy, wide, { intrabar: "optimistic" });
    expect(careful.trades[0]).toMatchObject({ exitReason: "stop", exitPrice: 95 });
    expect(hopeful.trades[0]).toMatchObject({ exitReason: "target", exitPrice: 105 });
    expect(careful.metrics.all.ambiguousBars).toBe(1);
  });

  it("a target that is only touched stays unfilled when pessimistic", () => {
    const touch = barsOf([100, 100, 100, 100], [100, 105, 100, 103], [103, 103, 103, 103]);
    const strategy = { long: { enter: { when: upOn(100) } }, protect: { target: { unit: "points", value: 5 } } };
    expect(run(strategy, touch).trades[0].open).toBe(true);
    expect(run(strategy, touch, { intrabar: "optimistic" }).trades[0]).toMatchObject({ exitReason: "target", exitPrice: 105 });
  });

  it("reverse at one price, and name both reasons", () => {
    const { trades } = run({ long: { enter: { when: upOn(100) } }, short: { enter: { when: upOn(103) } } }, bars);
    expect(trades[0]).toMatchObject({ side: "long", exitReason: "opposite", exitPrice: 90 });
    expect(trades[1]).toMatchObject({ side: "short", entryPrice: 90, entryTime: trades[0].exitTime, open: true, exitTime: null });
  });

  it("drop both sides that signal at one close", () => {
    const { trades, events } = run({ long: { enter: { when: upOn(100) } }, short: { enter: { when: upOn(100) } } }, bars);
    expect(trades).toEqual([]);
    expect(events.map((event) => event.kind)).toEqual(["bothSides"]);
  });

  it("close what is open at the end only when asked", () => {
    const strategy = { long: { enter: { when: upOn(100) } } };
    expect(run(strategy, bars).trades[0]).toMatchObject({ open: true, net: -40 });
    expect(run(strategy, bars, { closeAtEnd: true }).trades[0]).toMatchObject({ open: false, exitReason: "end", exitPrice: 98 });
  });

  it("leave after so many bars", () => {
    const { trades } = run({ long: { enter: { when: upOn(100) } }, protect: { maxBarsHeld: 1 } }, bars);
    expect(trades[0]).toMatchObject({ exitReason: "maxBarsHeld", bars: 1, exitPrice: 94 });
  });
});

describe("size, costs and margin", () => {
  const bars = barsOf([100, 100, 100, 100], [100, 110, 100, 110], [110, 120, 110, 120], [120, 120, 120, 120]);
  const enter = { long: { enter: { when: upOn(100) } } };
  const units = (sizing: object, more: object = {}, settings: object = {}, market: object = {}) =>
    run({ ...enter, ...more, sizing }, bars, settings, market).trades[0]?.units;

  it("count units by each mode, rounded down", () => {
    expect(units({ mode: "cash", value: 2550 })).toBe(25);
    expect(units({ mode: "equityPercent", value: 33.33 })).toBe(333);
    expect(units({ mode: "riskPercent", value: 1 }, { protect: { stop: { unit: "percent", value: 3 } } })).toBe(333);
    expect(units({ mode: "equalShare" }, {}, { marketLimit: 4 })).toBe(250);
    expect(units({ mode: "equityPercent", value: 10 }, {}, {}, { unitStep: 0.5, pointValue: 3 })).toBe(33);
  });

  it("skip what is too small, with an event", () => {
    const { trades, events } = run({ ...enter, sizing: { mode: "cash", value: 99 } }, bars);
    expect(trades).toEqual([]);
    expect(events[0]).toMatchObject({ kind: "tooSmall", symbol: "X" });
  });

  it("cut to the margin, or skip", () => {
    expect(units({ mode: "units", value: 2000 })).toBe(1000);
    expect(units({ mode: "units", value: 2000 }, {}, { leverage: 2 })).toBe(2000);
    expect(units({ mode: "units", value: 2000 }, {}, { onLackOfMargin: "skip" })).toBe(undefined);
  });

  it("charge commissions by the larger of the sum and the minimum, and financing by calendar days", () => {
    const { trades, metrics } = run({ ...enter, sizing: { mode: "units", value: 10 } }, bars, {
      costs: { perUnit: 0.1, perOrder: 2, percent: 0.1, minimum: 3, financingLongPercent: 3.65 },
    });
    const entry = Math.max(3, 2 + 1 + 1);
    const nights = (10 * 110 * 0.0365) / 365 + (10 * 120 * 0.0365) / 365;
    expect(trades[0].costs).toBeCloseTo(entry + nights, 12);
    expect(metrics.all.financing).toBeCloseTo(nights, 12);
    expect(metrics.all.commissions).toBe(entry);
  });

  it("halt the account when nothing is left", () => {
    const crash = barsOf([100, 100, 100, 100], [100, 100, 100, 100], [50, 50, 5, 5], [5, 5, 5, 5], [6, 6, 6, 6]);
    const { halted, trades, events } = run({ ...enter, sizing: { mode: "units", value: 5000 } }, crash, { leverage: 10 });
    expect(halted).toBe(true);
    expect(trades[0]).toMatchObject({ exitReason: "halt", exitPrice: 5 });
    expect(events.map((event) => event.kind)).toContain("halt");
  });

  it("refuses a strategy that cannot be sized", () => {
    expect(compileStrategy(strategyOf({ ...enter, sizing: { mode: "riskPercent", value: 1 } })).problems[0].message).toContain(
      "needs a stop loss",
    );
    expect(compileStrategy(strategyOf({ ...enter, sizing: { mode: "cash" } })).problems[0].path).toBe("sizing.value");
    expect(compileStrategy(strategyOf({ ...enter, sizing: { mode: "cash", value: "nothing" } })).problems[0].message).toContain(
      "there is no parameter “nothing”",
    );
    const { problems } = backtest(strategyOf({ ...enter, sizing: { mode: "equalShare" } }), settingsOf(), [bars]);
    expect(problems[0].path).toBe("marketLimit");
  });

  it("refuses parameters that make no sense", () => {
    const fault = (parameter: object) =>
      compileStrategy(strategyOf({ ...enter, parameters: [{ name: "n", kind: "whole", value: 5, ...parameter }] })).problems[0];
    expect(fault({ min: 9, max: 3 })).toMatchObject({ path: "parameters[0].min", message: "min, 9, is above max, 3" });
    expect(fault({ value: 2.5 }).message).toContain("must be whole");
    expect(fault({ name: "close" }).message).toContain("built-in series");
    expect(fault({ kind: "yesNo" }).message).toContain("true or false");
  });
});

/** Random bars, strategies and costs, for what must hold always. */
const anyCase = fc.record({
  seed: fc.integer({ min: 1, max: 2 ** 30 }),
  length: fc.integer({ min: 10, max: 160 }),
  fast: fc.integer({ min: 1, max: 6 }),
  slow: fc.integer({ min: 2, max: 15 }),
  stop: fc.option(
    fc.record({
      unit: fc.constantFrom("points", "percent", "atr", "ticks"),
      value: fc.double({ min: 0.2, max: 6, noNaN: true }),
      period: fc.integer({ min: 1, max: 8 }),
    }),
  ),
  target: fc.option(
    fc.record({
      unit: fc.constantFrom("points", "percent", "atr"),
      value: fc.double({ min: 0.2, max: 8, noNaN: true }),
      period: fc.integer({ min: 1, max: 8 }),
    }),
  ),
  sizing: fc.constantFrom(
    { mode: "units", value: 7 },
    { mode: "equityPercent", value: 80 },
    { mode: "equityPercent", value: 300 },
    { mode: "cash", value: 20_000 },
  ),
  opposite: fc.constantFrom("reverse", "close", "ignore"),
  at: fc.constantFrom("followingOpen", "sameClose"),
  exit: fc.boolean(),
  entries: fc.integer({ min: 1, max: 3 }),
  held: fc.option(fc.integer({ min: 1, max: 9 })),
  intrabar: fc.constantFrom("pessimistic", "optimistic"),
  costs: fc.record({
    perUnit: fc.constantFrom(0, 0.2),
    spreadTicks: fc.constantFrom(0, 2),
    slippageTicks: fc.constantFrom(0, 1),
    financingLongPercent: fc.constantFrom(0, 0, 4),
  }),
  closeAtEnd: fc.boolean(),
});
type Case = typeof anyCase extends fc.Arbitrary<infer T> ? T : never;

function barsOfCase({ seed, length }: Case): Bars {
  let state = seed;
  const next = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
  let price = 100;
  return barsOf(
    ...Array.from({ length }, (): [number, number, number, number] => {
      const open = price + Math.round(next() * 6 - 3) / 2;
      const close = Math.max(5, open + Math.round(next() * 12 - 6) / 2);
      price = close;
      return [open, Math.max(open, close) + Math.round(next() * 4) / 2, Math.min(open, close) - Math.round(next() * 4) / 2, close];
    }),
  );
}

function documentsOf(c: Case): [Strategy, Settings] {
  const order = { type: "market", at: c.at };
  const strategy = strategyOf({
    long: {
      enter: { when: `sma(close, ${c.fast}) crosses above sma(close, ${c.slow})`, order },
      ...(c.exit ? { exit: { when: "close < close 2 back" } } : {}),
    },
    short: {
      enter: { when: `sma(close, ${c.fast}) crosses below sma(close, ${c.slow})`, order },
      ...(c.exit ? { exit: { when: "close > close 2 back", at: c.at } } : {}),
    },
    protect: { stop: c.stop, target: c.target, maxBarsHeld: c.held },
    sizing: c.sizing,
    onOpposite: c.opposite,
    entriesAtOnce: c.entries,
  });
  return [
    strategy,
    settingsOf(
      { costs: { ...NO_COSTS, ...c.costs }, intrabar: c.intrabar, closeAtEnd: c.closeAtEnd },
      { margin: { mode: "fraction", value: 0.4 }, tick: 0.5 },
    ),
  ];
}

describe("what must hold in every run", () => {
  const simulated = (c: Case, bars: Bars, options: object = {}) => {
    const [strategy, settings] = documentsOf(c);
    return simulate(prepareBacktest(strategy, settings, [bars]).run!, { record: true, ...options });
  };

  it("the equity ends where capital and all trades say", () => {
    fc.assert(
      fc.property(anyCase, (c) => {
        const simulation = simulated(c, barsOfCase(c));
        const total = tradesOf(simulation).reduce((sum, trade) => sum + trade.net, 100_000);
        expect(simulation.equity.at(-1)!).toBeCloseTo(total, 6);
      }),
      { numRuns: 300 },
    );
  });

  it("passing over quiet bars quickly gives the same result to the last bit as walking through them", () => {
    fc.assert(
      fc.property(anyCase, (c) => {
        const bars = barsOfCase(c);
        const [quick, slow] = [simulated(c, bars), simulated(c, bars, { members: true })];
        expect(tradesOf(quick)).toEqual(tradesOf(slow));
        expect(quick.equity).toEqual(slow.equity);
        expect(quick.events).toEqual(slow.events);
        expect([quick.barsInMarket, quick.peakLong, quick.peakShort, quick.ambiguousBars]).toEqual([
          slow.barsInMarket,
          slow.peakLong,
          slow.peakShort,
          slow.ambiguousBars,
        ]);
      }),
      { numRuns: 400 },
    );
  });

  it("no trade knows the future: cutting the bars off leaves what was before as it was", () => {
    fc.assert(
      fc.property(anyCase, fc.double({ min: 0.2, max: 0.95, noNaN: true }), (c, share) => {
        const bars = barsOfCase({ ...c, closeAtEnd: false });
        const cut = Math.max(3, Math.floor(bars.length * share));
        const whole = simulated({ ...c, closeAtEnd: false }, bars);
        const part = simulated({ ...c, closeAtEnd: false }, sliceBars(bars, 0, cut));
        expect(part.equity).toEqual(whole.equity.slice(0, cut));
      }),
      { numRuns: 200 },
    );
  });

  it("every fill lies inside its bar, moved by spread and slippage at most", () => {
    fc.assert(
      fc.property(anyCase, (c) => {
        const bars = barsOfCase(c);
        const air = (c.costs.spreadTicks / 2 + c.costs.slippageTicks) * 0.5 + 1e-9;
        const simulation = simulated(c, bars);
        const { log } = simulation;
        for (const row of closedByExit(simulation)) {
          expect(log.entryPrice[row]).toBeGreaterThanOrEqual(bars.low[log.entryRow[row]] - air);
          expect(log.entryPrice[row]).toBeLessThanOrEqual(bars.high[log.entryRow[row]] + air);
          expect(log.exitPrice[row]).toBeGreaterThanOrEqual(bars.low[log.exitRow[row]] - air - 0.5);
          expect(log.exitPrice[row]).toBeLessThanOrEqual(bars.high[log.exitRow[row]] + air + 0.5);
          const { mae, mfe } = excursion(simulation, row);
          expect([mae <= 0, mfe >= 0]).toEqual([true, true]);
        }
      }),
      { numRuns: 200 },
    );
  });

  it("costs only ever take", () => {
    fc.assert(
      fc.property(anyCase, (c) => {
        const free = {
          ...c,
          sizing: { mode: "units", value: 7 } as const,
          stop: null,
          target: null,
          costs: { perUnit: 0, spreadTicks: 0, slippageTicks: 0, financingLongPercent: 0 } as const,
        };
        const bars = barsOfCase(c);
        const [without, withCosts] = [simulated(free, bars), simulated({ ...free, costs: { ...c.costs } }, bars)];
        expect(withCosts.equity.at(-1)!).toBeLessThanOrEqual(without.equity.at(-1)! + 1e-6);
      }),
      { numRuns: 150 },
    );
  });
});
