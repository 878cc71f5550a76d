import { describe, expect, it } from "vitest";
import { simulate } from "#core/engine";
import { prepareBacktest } from "#core/runs";
import { benchBars, DAILY } from "./data";
import { HandLoop } from "./hand";
import { benchSettings, benchStrategy, handRules } from "./strategy";

describe("the loop that the benchmarks compare with", () => {
  it("does the same work: the engine's trades, to the last, and its equity", () => {
    const bars = benchBars(5000, DAILY.step);
    const loop = new HandLoop(bars.length);
    loop.run(bars, handRules());
    const { log, equity } = simulate(prepareBacktest(benchStrategy("1d"), benchSettings("1d"), [bars]).run!);
    const closed = Array.from({ length: log.count }, (_, i) => i).filter((i) => log.reason[i] !== 0);
    expect(closed.length).toBe(loop.trades);
    expect(loop.trades).toBeGreaterThan(50);
    for (const i of closed) {
      expect([log.entryRow[i], log.exitRow[i]]).toEqual([loop.entryRow[i], loop.exitRow[i]]);
      expect(log.exitPrice[i]).toBeCloseTo(loop.exitPrice[i], 6);
      expect(log.net(i)).toBeCloseTo(loop.net[i], 6);
    }
    for (let t = 0; t < bars.length; t += 7) expect(equity[t]).toBeCloseTo(loop.equity[t], 5);
  });
});
