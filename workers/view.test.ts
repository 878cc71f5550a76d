import { describe, expect, it } from "vitest";
import { readSettings, readStrategy } from "#core/documents";
import { simulate } from "#core/engine";
import { benchmarkEquity } from "#core/metrics";
import { backtest, prepareBacktest } from "#core/runs";
import { DEMO_MARKETS, demoBars } from "../demo/markets";
import { DEMO_STRATEGIES } from "../demo/strategies";
import { viewOf } from "./view";

describe("what the browser shows", () => {
  it.each(DEMO_STRATEGIES.map((item) => [item.strategy.name!, item] as const))(
    "of %s is what the server stores, to the last bit",
    (_name, { market: symbol, strategy }) => {
      const market = DEMO_MARKETS.find((m) => m.spec.symbol === symbol)!;
      const bars = [demoBars(market)];
      const settings = readSettings({
        format: "canyon.settings/1",
        markets: [{ ...market.spec, bars: "x", timeframe: "1d" }],
        capital: 250_000,
        costs: market.costs,
        benchmark: symbol,
      }).value!;
      const read = readStrategy(strategy).value!;
      const stored = backtest(read, settings, bars).result!;
      const simulation = simulate(prepareBacktest(read, settings, bars).run!, { record: true });
      const view = viewOf(simulation, 1);
      expect([...view.equity]).toEqual(stored.equity.equity);
      expect(view.metrics).toEqual(stored.metrics);
      expect(view.trades).toEqual(stored.trades);
      expect(view.levels.length).toBe(stored.trades.length);
      expect([...view.benchmark!]).toEqual([...benchmarkEquity(simulation)!]);
      expect(view.bars).toBe(stored.equity.time.length);
    },
  );
});
