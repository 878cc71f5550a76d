import { describe, expect, it } from "vitest";
import { readSettings, readStrategy, type RunResult } from "#core/documents";
import { fixtureBars, fixtureJson } from "#core/testing/fixtures";
import { backtest, compareResults } from ".";

const folder = "backtests/01-market-next-open";
const settings = readSettings(fixtureJson(`${folder}/settings.json`)).value!;
const { result } = backtest(
  readStrategy(fixtureJson(`${folder}/strategy.json`)).value!,
  settings,
  settings.markets.map((market) => fixtureBars(`${folder}/${market.bars}`)),
);

describe("two results of one run", () => {
  it("are the same where everything but the engine's version is", () => {
    const again = structuredClone(result!);
    expect(compareResults(result!, again)).toMatchObject({ same: true, firstTrade: null, metrics: [] });
    expect(compareResults(result!, { ...again, engine: "0", fingerprint: "x" })).toMatchObject({
      same: true,
      engines: [result!.engine, "0"],
    });
  });

  it("differ from the first trade on that is not alike, with the figures that changed", () => {
    const other: RunResult = structuredClone(result!);
    other.trades[2].exitPrice! += 1;
    other.metrics.all.netProfit! += 5;
    other.equity.equity[other.equity.equity.length - 1] += 5;
    const found = compareResults(result!, other);
    expect(found).toMatchObject({ same: false, firstTrade: 3 });
    expect(found.metrics).toEqual([{ key: "netProfit", before: result!.metrics.all.netProfit, now: result!.metrics.all.netProfit! + 5 }]);
    expect(compareResults(result!, { ...result!, trades: result!.trades.slice(0, 4) })).toMatchObject({
      firstTrade: 5,
      trades: [result!.trades.length, 4],
    });
  });
});
