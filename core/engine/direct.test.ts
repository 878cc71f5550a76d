import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { emptyBars } from "#core/bars";
import { readSettings, readStrategy } from "#core/documents";
import { prepareBacktest } from "#core/runs";
import type { PreparedRun } from "./prepare";
import { simulate, Simulator } from "./simulate";
import type { Simulation } from "./simulation";
import { account, casesBars, documents, shape } from "./slow/cases";

type Shape = Parameters<typeof documents>[0];
type Side = NonNullable<Shape["long"]>;

/** A generated strategy without what the short way does not know. */
const plain = (s: Shape): Shape => {
  const side = (one: Side | undefined): Side | undefined =>
    one && {
      enter: { ...one.enter, order: { type: "market", at: "followingOpen" } },
      exit: one.exit && { ...one.exit, at: "followingOpen" },
    };
  const measured = <T extends { unit: string }>(part: T | undefined): T | undefined => (part?.unit === "price" ? undefined : part);
  return {
    ...s,
    long: side(s.long),
    short: side(s.short),
    stop: measured(s.stop),
    target: measured(s.target),
    trail: undefined,
    breakeven: undefined,
    exitAt: undefined,
    exitWeekday: undefined,
    entriesAtOnce: 1,
  };
};

const plainAccount = (a: Parameters<typeof documents>[1]): Parameters<typeof documents>[1] => ({
  ...a,
  fine: false,
  markets: 1,
  intrabar: a.intrabar === "path" ? "pessimistic" : a.intrabar,
  costs: { ...a.costs, financingLongPercent: 0, financingShortPercent: 0 },
});

/** All that figures and lists of trades are made of, as plain values. */
function kept({ log, equity, balances, ...rest }: Simulation) {
  const { halted, barsInMarket, peakLong, peakShort, ambiguousBars, commissions, spreadCost, slippageCost, turnover } = rest;
  const columns = Object.entries(log).filter((entry): entry is [string, Float64Array] => ArrayBuffer.isView(entry[1]));
  const unset = ["ownStop", "best", "pathBest", "trail", "trailDistance", "trailAfter", "trigger", "offset"];
  return {
    trades: columns
      .filter(([name]) => !unset.includes(name))
      .map(([name, column]) => [
        name,
        // an open trade has no exit yet: what the memory held before does not count
        Array.from(column.subarray(0, log.count), (x, i) => (name.startsWith("exit") && log.reason[i] === 0 ? null : x)),
      ]),
    equity: [...equity],
    balances: [...balances.column(equity.length)],
    figures: [halted, barsInMarket, peakLong, peakShort, ambiguousBars, commissions, spreadCost, slippageCost, turnover],
  };
}

describe("the short way of plain runs", () => {
  it("leads to the same result as the general steps, to the last bit", () => {
    let short = 0;
    let trades = 0;
    let refused = 0;
    fc.assert(
      fc.property(shape, account, fc.integer({ min: 1, max: 1e6 }), (s, a, seed) => {
        const made = documents(plain(s), plainAccount(a));
        if (made === null) return;
        made[1].markets[0].minUnits = 1 + (seed % 4);
        const { run } = prepareBacktest(made[0], made[1], [casesBars(seed, 24)]);
        if (run === null) return;
        if (new Simulator(run, {}).direct === null) return;
        short++;
        const general = simulate(run, { stepwise: true });
        expect(kept(simulate(run))).toEqual(kept(general));
        trades += general.log.count;
        refused += simulate(run, { record: true }).events.filter(({ kind }) => /noMargin|reduced|tooSmall|bothSides/.test(kind)).length;
      }),
      { numRuns: 800 },
    );
    expect(short).toBeGreaterThan(150);
    expect(trades).toBeGreaterThan(1500);
    expect(refused).toBeGreaterThan(100);
  }, 120_000);

  it("counts no margin of a position that leaves before the entry fills", () => {
    const bars = emptyBars(6);
    [100, 100, 100, 50, 50, 50].forEach((price, i) => {
      bars.time[i] = Date.UTC(2024, 0, 1 + i);
      for (const name of ["open", "high", "low", "close"] as const) bars[name][i] = price;
    });
    const strategy = readStrategy({
      format: "canyon.strategy/1",
      timeframe: "1d",
      long: { enter: { when: "close = 100" }, exit: { when: "close < 60" } },
      short: { enter: { when: "close < 60" } },
      sizing: { mode: "units", value: 100 },
    }).value!;
    const settings = readSettings({
      format: "canyon.settings/1",
      capital: 10_000,
      costs: { perOrder: 100 },
      markets: [{ symbol: "X", bars: "x", timeframe: "1d" }],
    }).value!;
    const run = prepareBacktest(strategy, settings, [bars]).run!;
    expect(new Simulator(run, {}).direct).not.toBeNull();
    const done = simulate(run);
    // equity is 10,000 less a commission and half the price: 98 units fit into it; the 100 that leave would not raise that
    expect([...done.log.units.subarray(0, done.log.count)]).toEqual([100, 98]);
    expect(kept(done)).toEqual(kept(simulate(run, { stepwise: true })));
  });

  it("is not taken where the run needs more", () => {
    const taken = (change: (s: Record<string, unknown>, a: Record<string, unknown>) => void): boolean => {
      const [s, a] = fc.sample(fc.tuple(shape, account), { numRuns: 1, seed: 7 })[0];
      const strategy = { ...plain({ ...s, long: undefined, short: undefined }) } as Record<string, unknown>;
      strategy.long = { enter: { when: "close > close 1 back", order: { type: "market", at: "followingOpen" } }, exit: undefined };
      const settings = { ...plainAccount(a) } as Record<string, unknown>;
      change(strategy, settings);
      const made = documents(strategy as unknown as Shape, settings as unknown as Parameters<typeof documents>[1])!;
      const bars = made[1].markets.map((_, k) => casesBars(5 + k, 24));
      return new Simulator(prepareBacktest(made[0], made[1], bars).run as PreparedRun, {}).direct !== null;
    };
    expect(taken(() => undefined)).toBe(true);
    expect(taken((s) => (s.trail = { unit: "points", value: 2, activateAfter: 0 }))).toBe(false);
    expect(taken((s) => (s.exitAt = "10:30"))).toBe(false);
    expect(taken((s) => (s.entriesAtOnce = 2))).toBe(false);
    expect(taken((s) => (s.stop = { unit: "price", value: "close - 2", follow: true }))).toBe(false);
    expect(taken((s) => (s.long = { enter: { when: "close > open", order: { type: "stop", price: "high", workingBars: 2 } } }))).toBe(
      false,
    );
    expect(taken((_, a) => (a.intrabar = "path"))).toBe(false);
    expect(taken((_, a) => (a.markets = 2))).toBe(false);
    expect(taken((_, a) => (a.costs = { ...(a.costs as object), financingLongPercent: 5 }))).toBe(false);
  });
});
