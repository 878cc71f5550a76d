import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { emptyBars, type Bars } from "#core/bars";
import type { Settings, Strategy } from "#core/documents";
import { prepareBacktest } from "#core/runs";
import { simulate } from "./simulate";
import type { Simulation } from "./simulation";
import { account, casesBars, documents, shape } from "./slow/cases";
import { REASONS } from "./trade-log";

type Shape = Parameters<typeof documents>[0];
type Account = Parameters<typeof documents>[1];

const seeds = fc.integer({ min: 1, max: 1e6 });

/** Runs a generated case with its books; null where there is none. */
function run(made: [Strategy, Settings] | null, seed: number, change: (bars: Bars) => Bars = (bars) => bars): Simulation | null {
  if (made === null) return null;
  const bars = made[1].markets.map((_, k) => change(casesBars(seed + k * 101, 24)));
  const prepared = prepareBacktest(made[0], made[1], bars);
  if (prepared.run === null) expect(prepared.problems.map((p) => p.message).join()).toContain("there are no bars");
  return prepared.run === null ? null : simulate(prepared.run, { record: true });
}

/** Changes every column of prices. */
function priced(bars: Bars, of: (high: number, low: number, other: number) => { high: number; low: number; other: number }): Bars {
  const out = emptyBars(bars.length);
  out.time.set(bars.time);
  out.volume.set(bars.volume);
  for (let i = 0; i < bars.length; i++) {
    const { high, low } = of(bars.high[i], bars.low[i], 0);
    out.high[i] = high;
    out.low[i] = low;
    out.open[i] = of(0, 0, bars.open[i]).other;
    out.close[i] = of(0, 0, bars.close[i]).other;
  }
  return out;
}

/** A document with every text changed that a table names, wherever it stands. */
const reworded = <T>(document: T, table: Readonly<Record<string, string>>): T =>
  JSON.parse(JSON.stringify(document), (_key, value: unknown) => (typeof value === "string" ? (table[value] ?? value) : value)) as T;

/** The trades as plain values. */
const trades = ({ log }: Simulation) =>
  Array.from({ length: log.count }, (_, i) => ({
    side: log.side[i],
    units: log.units[i],
    entry: [log.entryRow[i], log.entryPrice[i]],
    exit: log.reason[i] === 0 ? null : [log.exitRow[i], log.exitPrice[i], REASONS[log.reason[i]]],
    net: log.net(i),
  }));

describe("in every run, whatever the strategy uses", () => {
  it("equity at every close is the capital, the net of what was closed and the value of what is open", () => {
    let points = 0;
    fc.assert(
      fc.property(shape, account, seeds, (s, a, seed) => {
        // what commissions and nights cost is taken off as it falls due; without them a trade's net is all there is
        const { spreadTicks, slippageTicks } = a.costs;
        const costs = { ...a.costs, perUnit: 0, perOrder: 0, percent: 0, minimum: 0, financingLongPercent: 0, financingShortPercent: 0 };
        const done = run(documents(s, { ...a, costs: { ...costs, spreadTicks, slippageTicks } }), seed);
        if (done === null) return;
        const { log, legs, run: made, equity } = done;
        const last = legs.map(() => NaN);
        made.clock.times.forEach((time, t) => {
          legs.forEach(({ market }, k) => {
            const own = made.clock.rows[legs[k].marketIndex];
            const row = own === null ? made.clock.firstRow + t : own[t];
            if (row >= 0) last[k] = market.bars.close[row];
          });
          let total = 10_000;
          for (let i = 0; i < log.count; i++) {
            const k = log.leg[i];
            const { bars } = legs[k].market;
            if (bars.time[log.entryRow[i]] > time) continue;
            const closed = log.reason[i] !== 0 && bars.time[log.exitRow[i]] <= time;
            total += closed ? log.net(i) : log.side[i] * log.units[i] * legs[k].pointValue * (last[k] - log.entryPrice[i]);
          }
          points++;
          expect(Math.abs(equity[t] - total)).toBeLessThanOrEqual(1e-9 * Math.max(1, Math.abs(total)));
        });
      }),
      { numRuns: 150 },
    );
    expect(points).toBeGreaterThan(5000);
  });

  it("nothing fills outside a bar's range beyond spread, slippage and rounding", () => {
    let fills = 0;
    fc.assert(
      fc.property(shape, account, seeds, (s, a, seed) => {
        const done = run(documents(s, a), seed);
        if (done === null) return;
        const { log, legs } = done;
        for (let i = 0; i < log.count; i++) {
          const { bars, spec } = legs[log.leg[i]].market;
          const beyond = (a.costs.spreadTicks / 2 + a.costs.slippageTicks + (a.roundToTick ? 0.5 : 0)) * spec.tick + 1e-6;
          const within = (row: number, price: number) => {
            fills++;
            expect(price).toBeGreaterThanOrEqual(bars.low[row] - beyond);
            expect(price).toBeLessThanOrEqual(bars.high[row] + beyond);
          };
          within(log.entryRow[i], log.entryPrice[i]);
          if (log.reason[i] !== 0) within(log.exitRow[i], log.exitPrice[i]);
        }
      }),
      { numRuns: 180 },
    );
    expect(fills).toBeGreaterThan(3000);
  });

  it("no more markets are held than there is room for, but those that leave at their next open", () => {
    let full = 0;
    fc.assert(
      fc.property(shape, account, seeds, fc.constantFrom(1, 2), (s, a, seed, marketLimit) => {
        const done = run(documents(s, { ...a, markets: 3, marketLimit }), seed);
        if (done === null) return;
        const { log, legs, run: made, orders } = done;
        const moment = (leg: number, row: number) => legs[leg].market.bars.time[row];
        const leaving = orders
          .filter((order) => order.purpose === "exit")
          .map(({ symbol, placed, ended }) => ({ symbol, from: Date.parse(placed), to: ended === null ? Infinity : Date.parse(ended) }));
        for (const t of made.clock.times) {
          const held = new Set<string>();
          for (let i = 0; i < log.count; i++) {
            const { symbol } = legs[log.leg[i]].market.spec;
            if (moment(log.leg[i], log.entryRow[i]) > t || (log.reason[i] !== 0 && moment(log.leg[i], log.exitRow[i]) <= t)) continue;
            if (!leaving.some((order) => order.symbol === symbol && order.from <= t && order.to > t)) held.add(symbol);
          }
          expect(held.size).toBeLessThanOrEqual(marketLimit);
          if (held.size === marketLimit) full++;
        }
      }),
      { numRuns: 80 },
    );
    expect(full).toBeGreaterThan(300);
  });

  it("an order with nothing else open is never larger than the equity at its close can carry", () => {
    let orders = 0;
    fc.assert(
      fc.property(shape, account, seeds, (s, a, seed) => {
        const made = documents({ ...s, entriesAtOnce: 1, sizing: { mode: "equityPercent", value: 300 } }, { ...a, markets: 1 });
        const done = run(made, seed);
        if (done === null) return;
        const { log, legs, run: prepared, equity } = done;
        const { bars } = legs[0].market;
        const at = new Map(Array.from(prepared.clock.times, (time, t) => [time, t]));
        for (const order of done.orders) {
          if (order.purpose !== "entry" || order.ended === order.placed) continue;
          const t = at.get(Date.parse(order.placed))!;
          const row = prepared.clock.firstRow + t;
          const open = Array.from({ length: log.count }).some(
            (_, i) => log.entryRow[i] <= row && (log.reason[i] === 0 || log.exitRow[i] >= row),
          );
          const working = done.orders.some(
            (other) => other !== order && other.placed <= order.placed && (other.ended === null || other.ended > order.placed),
          );
          if (open || working) continue;
          orders++;
          const margin = (order.units * Math.abs(order.price ?? bars.close[row]) * 0.5) / a.leverage;
          expect(margin).toBeLessThanOrEqual(equity[t] * (1 + 1e-9));
        }
      }),
      { numRuns: 180 },
    );
    expect(orders).toBeGreaterThan(300);
  });

  it("higher commissions never raise the net of the same trades", () => {
    let compared = 0;
    fc.assert(
      fc.property(shape, account, seeds, fc.constantFrom("perUnit", "perOrder", "percent", "minimum"), (s, a, seed, key) => {
        const fixed: Shape = { ...s, sizing: { mode: "units", value: 3 } };
        const mild: Account = { ...a, haltBelowPercent: 0, leverage: 2 };
        const dear: Account = { ...mild, costs: { ...mild.costs, [key]: mild.costs[key] + 0.5 } };
        const [one, other] = [run(documents(fixed, mild), seed), run(documents(fixed, dear), seed)];
        if (one === null || other === null) return;
        const [cheap, costly] = [trades(one), trades(other)];
        for (let i = 0; i < Math.min(cheap.length, costly.length); i++) {
          const same = JSON.stringify({ ...cheap[i], net: 0 }) === JSON.stringify({ ...costly[i], net: 0 });
          // an account that pays more may refuse what the other still lets in
          if (!same) break;
          compared++;
          expect(costly[i].net).toBeLessThanOrEqual(cheap[i].net + 1e-9);
        }
      }),
      { numRuns: 200 },
    );
    expect(compared).toBeGreaterThan(1000);
  });
});

describe("symmetries", () => {
  /** Prices in formulas, doubled. */
  const DOUBLED = {
    "close + 1": "close + 2",
    "close - 1": "close - 2",
    "close - 0.5": "close - 1",
    "close + 0.5": "close + 1",
    "close - 2": "close - 4",
    "close + 2": "close + 4",
    "highest(high, 5) + 1": "highest(high, 5) + 2",
    "openProfit > 1 or openProfit < -2": "openProfit > 2 or openProfit < -4",
  };
  type Measured = { unit: string; value: number | string; trigger?: number; offset?: number; activateAfter?: number };
  const doubledDistance = <T>(part: T | undefined): T | undefined => {
    const { unit } = (part ?? {}) as Measured;
    if (part === undefined || unit !== "points") return part;
    return Object.fromEntries(
      Object.entries(part as object).map(([key, x]) => [key, typeof x === "number" && key !== "period" ? 2 * x : x]),
    ) as T;
  };

  it("twice the prices, the tick, the capital and the money of every cost give the same trades and twice the money", () => {
    let compared = 0;
    fc.assert(
      fc.property(shape, account, seeds, (s, a, seed) => {
        const made = documents(s, a);
        const one = run(made, seed);
        if (made === null || one === null) return;
        const [strategy, settings] = made;
        const { protect = {}, sizing } = strategy;
        const larger: Strategy = reworded(
          {
            ...strategy,
            protect: {
              ...protect,
              stop: doubledDistance(protect.stop),
              target: doubledDistance(protect.target),
              trail: doubledDistance(protect.trail),
              breakeven: doubledDistance(protect.breakeven),
            },
            sizing: sizing.mode === "cash" ? { ...sizing, value: 2 * (sizing.value as number) } : sizing,
          },
          DOUBLED,
        );
        const { perUnit, perOrder, minimum } = settings.costs;
        const richer: Settings = {
          ...settings,
          capital: 2 * settings.capital,
          costs: { ...settings.costs, perUnit: 2 * perUnit, perOrder: 2 * perOrder, minimum: 2 * minimum },
          markets: settings.markets.map((market) => ({
            ...market,
            tick: 2 * market.tick,
            margin: market.margin.mode === "perUnit" ? { mode: "perUnit", value: 2 * market.margin.value } : market.margin,
          })),
        };
        const other = run([larger, richer], seed, (bars) =>
          priced(bars, (high, low, price) => ({ high: 2 * high, low: 2 * low, other: 2 * price })),
        )!;
        // twice a float is exact, so that nothing but a fault can tell them apart
        expect(trades(other)).toEqual(
          trades(one).map((trade) => ({
            ...trade,
            entry: [trade.entry[0], 2 * trade.entry[1]],
            exit: trade.exit && [trade.exit[0], 2 * (trade.exit[1] as number), trade.exit[2]],
            net: 2 * trade.net,
          })),
        );
        expect([...other.equity]).toEqual(Array.from(one.equity, (x) => 2 * x));
        expect(other.commissions + other.financing + other.spreadCost + other.slippageCost).toBe(
          2 * (one.commissions + one.financing + one.spreadCost + one.slippageCost),
        );
        compared += one.log.count;
      }),
      { numRuns: 250 },
    );
    expect(compared).toBeGreaterThan(1500);
  });

  /** Formulas as they read in a mirror; each stands for the other. */
  const PAIRS = [
    ["close > close 1 back", "close < close 1 back"],
    ["close crosses above sma(close, 4)", "close crosses below sma(close, 4)"],
    ["rsi(2) < 30", "rsi(2) > 70"],
    ["ibs > 0.6", "ibs < 0.4"],
    ["close > open and not inLong", "close < open and not inShort"],
    ["barsHeld > 2 or close < open", "barsHeld > 2 or close > open"],
    ["close < close 2 back", "close > close 2 back"],
    ["close < lowest(close, 5) 1 back", "close > highest(close, 5) 1 back"],
    ["high", "low"],
    ["highest(high, 3)", "lowest(low, 3)"],
    ["close + 1", "close - 1"],
    ["close - 0.5", "close + 0.5"],
    ["close - 0.3 * atr(3)", "close + 0.3 * atr(3)"],
    ["lowest(low, 4)", "highest(high, 4)"],
    ["close - 2", "close + 2"],
    ["highest(high, 5) + 1", "lowest(low, 5) - 1"],
  ];
  const MIRROR = Object.fromEntries(
    PAIRS.flatMap(([x, y]) => [
      [x, y],
      [y, x],
    ]),
  );
  const TOP = 512;

  it("mirrored prices with mirrored rules give mirrored trades", () => {
    let compared = 0;
    const absolute = <T extends { unit: string }>(part: T | undefined): T | undefined => (part?.unit === "percent" ? undefined : part);
    fc.assert(
      fc.property(shape, account, seeds, fc.boolean(), (s, a, seed, twoSided) => {
        // what looks at the size of a price has no mirror, nor has the rule for ties between a bracket's two sides
        const market = { type: "market", at: "followingOpen" } as const;
        const side = (one: Shape["long"]): Shape["long"] => one && { ...one, enter: { ...one.enter, order: market } };
        const stop = absolute(s.stop);
        const fit: Shape = {
          ...s,
          long: twoSided ? side(s.long) : s.long,
          short: twoSided ? side(s.short) : undefined,
          stop,
          target: absolute(s.target),
          trail: absolute(s.trail),
          breakeven: absolute(s.breakeven),
          sizing: stop !== undefined && s.sizing.mode === "riskPercent" ? s.sizing : { mode: "units", value: 3 },
        };
        const costs = { ...a.costs, percent: 0, financingLongPercent: 0, financingShortPercent: 0 };
        const made = documents(fit, { ...a, costs, markets: 1, intrabar: a.intrabar === "path" ? "optimistic" : a.intrabar });
        if (made === null) return;
        const [strategy, settings] = made;
        settings.markets[0].margin = { mode: "perUnit", value: 40 };
        const one = run(made, seed);
        if (one === null) return;
        const { long, short, ...rest } = reworded(strategy, MIRROR);
        const mirrored = { ...rest, ...(short && { long: short }), ...(long && { short: long }) } as Strategy;
        const other = run([mirrored, settings], seed, (bars) =>
          priced(bars, (high, low, price) => ({ high: TOP - low, low: TOP - high, other: TOP - price })),
        )!;
        const flipped = trades(one).map((trade) => ({
          ...trade,
          side: -trade.side,
          entry: [trade.entry[0], expect.closeTo(TOP - trade.entry[1], 9)],
          exit: trade.exit && [trade.exit[0], expect.closeTo(TOP - (trade.exit[1] as number), 9), trade.exit[2]],
          net: expect.closeTo(trade.net, 6),
        }));
        expect(trades(other)).toEqual(flipped);
        expect(other.ambiguousBars).toBe(one.ambiguousBars);
        compared += one.log.count;
      }),
      { numRuns: 180 },
    );
    expect(compared).toBeGreaterThan(1500);
  });
});
