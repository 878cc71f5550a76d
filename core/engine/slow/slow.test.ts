import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { sliceBars } from "#core/bars";
import type { Settings, Strategy } from "#core/documents";
import { prepareBacktest, runMarkets } from "#core/runs";
import { parseTimeframe } from "#core/bars";
import { simulate } from "../simulate";
import { REASONS } from "../trade-log";
import { account, casesBars, documents, shape } from "./cases";
import { slowRun } from "./slow";

const near = (a: number, b: number): boolean => Math.abs(a - b) <= 1e-9 * Math.max(1, Math.abs(a), Math.abs(b));

/** Runs both, and gives what differs first, or null. */
function difference(strategy: Strategy, settings: Settings, seed: number): string | null {
  const own = settings.markets.map((_, k) => casesBars(seed + k * 101, 24));
  const prepared = prepareBacktest(strategy, settings, own);
  if (prepared.run === null)
    return prepared.problems.every((p) => /there are no bars/.test(p.message)) ? null : `refused: ${JSON.stringify(prepared.problems)}`;
  const quick = simulate(prepared.run, { record: true });
  const slow = slowRun({
    strategy,
    settings,
    markets: runMarkets(settings, own, parseTimeframe(strategy.timeframe)!).map((market, k) => ({
      ...market,
      store: prepared.run!.markets[k].store,
    })),
  });
  const { log } = quick;
  for (let i = 0; i < Math.max(log.count, slow.trades.length); i++) {
    const other = slow.trades[i];
    if (other === undefined || i >= log.count) return `trades: ${log.count} and ${slow.trades.length}, next ${JSON.stringify(other)}`;
    const mine = {
      market: quick.legs[log.leg[i]].marketIndex,
      side: log.side[i] as 1 | -1,
      units: log.units[i],
      entryRow: log.entryRow[i],
      entryPrice: log.entryPrice[i],
      exitRow: log.reason[i] === 0 ? null : log.exitRow[i],
      exitPrice: log.reason[i] === 0 ? null : log.exitPrice[i],
      reason: log.reason[i] === 0 ? null : REASONS[log.reason[i]],
      net: log.net(i),
    };
    for (const key of Object.keys(mine) as (keyof typeof mine)[]) {
      const [x, y] = [mine[key], other[key]];
      if (typeof x === "number" && typeof y === "number" ? !near(x, y) : x !== y)
        return `trade ${i + 1}, ${key}: ${String(x)}, slow ${String(y)}\n${JSON.stringify(mine)}\n${JSON.stringify(other)}`;
    }
  }
  for (let t = 0; t < slow.equity.length; t++)
    if (!near(quick.equity[t], slow.equity[t])) return `equity at ${t}: ${quick.equity[t]}, slow ${slow.equity[t]}`;
  const events: Record<string, number> = {};
  for (const { kind } of quick.events) events[kind] = (events[kind] ?? 0) + 1;
  const kinds = new Set([...Object.keys(events), ...Object.keys(slow.events)]);
  for (const kind of kinds) if (events[kind] !== slow.events[kind]) return `events ${kind}: ${events[kind]}, slow ${slow.events[kind]}`;
  if (quick.halted !== slow.halted) return `halted: ${quick.halted}, slow ${slow.halted}`;
  if (quick.ambiguousBars !== slow.ambiguousBars) return `ambiguous bars: ${quick.ambiguousBars}, slow ${slow.ambiguousBars}`;
  return null;
}

describe("the engine against the slow one", () => {
  it("agrees on generated strategies, run settings and bars, to the last trade", () => {
    let compared = 0;
    fc.assert(
      fc.property(shape, account, fc.integer({ min: 1, max: 1e6 }), (s, a, seed) => {
        const made = documents(s, a);
        if (made === null) return;
        compared++;
        expect(difference(made[0], made[1], seed)).toBeNull();
      }),
      { numRuns: Number(process.env.CASES ?? 500) },
    );
    expect(compared).toBeGreaterThan(Number(process.env.CASES ?? 500) / 2);
  }, 240_000);
});

describe("what must hold in every run, whatever the strategy uses", () => {
  const run = (
    s: Parameters<typeof documents>[0],
    a: Parameters<typeof documents>[1],
    seed: number,
    more: Partial<Settings> = {},
    cut?: number,
  ) => {
    const made = documents(s, a);
    if (made === null) return null;
    const settings = { ...made[1], ...more };
    const own = settings.markets.map((_, k) => casesBars(seed + k * 101, 24));
    const prepared = prepareBacktest(
      made[0],
      settings,
      cut === undefined ? own : own.map((bars) => sliceBars(bars, 0, bars.time.filter((time) => time < cut).length)),
    );
    return prepared.run === null ? null : simulate(prepared.run, { record: true });
  };

  it("equity is the capital and the net of all trades, open ones at their value", () => {
    fc.assert(
      fc.property(shape, account, fc.integer({ min: 1, max: 1e6 }), (s, a, seed) => {
        const done = run(s, a, seed);
        if (done === null || done.equity.length === 0) return;
        let total = 10_000;
        for (let i = 0; i < done.log.count; i++) total += done.log.net(i);
        expect(near(done.equity.at(-1)!, total)).toBe(true);
        const costs = done.log.costs.subarray(0, done.log.count).reduce((sum, x) => sum + x, 0);
        expect(Math.abs(costs - done.commissions - done.financing)).toBeLessThan(1e-6);
      }),
      { numRuns: 150 },
    );
  });

  it("nothing is held after an account was halted and its markets opened again", () => {
    fc.assert(
      fc.property(shape, account, fc.integer({ min: 1, max: 1e6 }), (s, a, seed) => {
        const done = run(s, { ...a, haltBelowPercent: 97 }, seed);
        if (done === null || !done.halted) return;
        const at = done.events.find((event) => event.kind === "halt")!.time;
        const { log, legs } = done;
        for (let i = 0; i < log.count; i++) {
          const { time } = legs[log.leg[i]].market.bars;
          expect(new Date(time[log.entryRow[i]]).toISOString() <= at).toBe(true);
          if (log.reason[i] === 0)
            expect(time.length - 1 === legs[log.leg[i]].row || new Date(time[legs[log.leg[i]].lastRow]).toISOString() <= at).toBe(true);
        }
      }),
      { numRuns: 150 },
    );
  });

  it("results on the beginning of the data are the beginning of the results", () => {
    fc.assert(
      fc.property(shape, account, fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 4, max: 30 }), (s, a, seed, day) => {
        // cut between sessions, so that no bar of any timeframe but the last is left unfinished
        const cut = Date.UTC(2024, 2, 18 + day);
        const more = { closeAtEnd: false, to: null };
        const [whole, part] = [run({ ...s, timeframe: s.timeframe }, a, seed, more), run(s, a, seed, more, cut)];
        if (whole === null || part === null) return;
        expect([...part.equity]).toEqual([...whole.equity.subarray(0, part.equity.length)]);
      }),
      { numRuns: 150 },
    );
  });
});
