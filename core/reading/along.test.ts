import { describe, expect, it } from "vitest";
import { readSettings, readStrategy } from "#core/documents";
import { simulate } from "#core/engine";
import { computeMetrics } from "#core/metrics";
import { prepareBacktest } from "#core/runs";
import { fixtureBars, fixtureFolders, fixtureJson } from "#core/testing/fixtures";
import { alongOf, contributions } from ".";

const prepared = (folder: string) => {
  const at = `backtests/${folder}`;
  const settings = readSettings(fixtureJson(`${at}/settings.json`)).value!;
  const bars = settings.markets.map((market) => fixtureBars(`${at}/${market.bars}`));
  return prepareBacktest(readStrategy(fixtureJson(`${at}/strategy.json`)).value!, settings, bars).run!;
};

describe("a run's quantities along the way", () => {
  it.each(fixtureFolders("backtests"))("agree with its figures: %s", (folder) => {
    const run = prepared(folder);
    const simulation = simulate(run);
    const { all } = computeMetrics(simulation);
    const along = alongOf(run);
    const last = run.clock.times.length - 1;
    const close = (a: number, b: number | null) => expect(Math.abs(a - b!)).toBeLessThanOrEqual(1e-9 * Math.max(1, Math.abs(b!)));
    close(along.commissions[last], all.commissions);
    close(along.spread[last], all.spreadCost);
    close(along.slippage[last], all.slippageCost);
    close(along.financing[last], all.financing);
    close(along.positions.filter((held) => held > 0).length / (last + 1), all.timeInMarket);
    const most = (sign: 1 | -1) =>
      Math.max(0, ...along.markets!.share.flatMap((share) => [...share].map((x) => (Number.isNaN(x) ? 0 : sign * x))));
    // positions in one market lie on one side in these runs, so the largest of a market is the largest on its side
    close(most(1), Math.max(0, all.peakLongExposure ?? 0));
    close(most(-1), Math.max(0, all.peakShortExposure ?? 0));
    for (let t = 0; t <= last; t++) {
      const profit = along.markets!.profit.reduce((sum, one) => sum + one[t], 0);
      expect(Math.abs(run.account.capital + profit - simulation.equity[t])).toBeLessThan(1e-6);
      const held = along.markets!.units.filter((units) => units[t] !== 0).length;
      expect(along.positions[t]).toBe(held);
      // a close of 0 makes a position without any notional
      expect(along.largest[t] >= 0).toBe(along.markets!.share.some((share) => share[t] !== 0));
    }
  });

  it("shares a fall out among the markets, to its whole", () => {
    const folder = fixtureFolders("backtests").find((name) => prepared(name).markets.length > 2)!;
    const run = prepared(folder);
    const { equity } = simulate(run);
    const low = equity.indexOf(Math.min(...equity));
    const parts = contributions(alongOf(run), -1, low)!;
    expect(parts.length).toBe(run.markets.length);
    expect(parts.reduce((sum, part) => sum + part.profit, 0)).toBeCloseTo(equity[low] - run.account.capital, 6);
    expect([...parts].sort((a, b) => a.profit - b.profit)).toEqual(parts);
  });

  it("leaves the markets out where they would be too many", () => {
    const run = prepared(fixtureFolders("backtests")[0]);
    const along = alongOf(run, 10);
    expect(along.markets).toBeNull();
    expect(contributions(along, -1, 3)).toBeNull();
    expect(along.positions).toEqual(alongOf(run).positions);
  });
});
