import { DAY, emptyBars } from "#core/bars";
import { readSettings, readStrategy } from "#core/documents";
import { simulate } from "#core/engine";
import { prepareBacktest } from "#core/runs";
import { viewOf } from "./view";

/**
 * Runs a small backtest a few times on made-up bars. A young worker has none of its code compiled; this gets that done while the
 * market's bars are still on their way, so that the first answer a trader waits for is computed at full speed.
 */
export function warmUp(): void {
  const bars = emptyBars(1500);
  for (let i = 0; i < bars.length; i++) {
    bars.time[i] = i * DAY;
    bars.open[i] = 100 + 20 * Math.sin(i / 15);
    bars.close[i] = 100 + 20 * Math.sin((i + 1) / 15);
    bars.high[i] = Math.max(bars.open[i], bars.close[i]) + 1;
    bars.low[i] = Math.min(bars.open[i], bars.close[i]) - 1;
  }
  const strategy = readStrategy({
    format: "canyon.strategy/1",
    timeframe: "1d",
    parameters: [{ name: "n", kind: "whole", value: 10 }],
    long: { enter: { when: "close crosses above sma(close, n) and rsi(close, 14) > 40" }, exit: { when: "close < lowest(low, 10) + 1" } },
    short: { enter: { when: "close crosses below sma(close, n)" } },
    protect: { stop: { unit: "atr", value: 2, period: 14 }, target: { unit: "percent", value: 10 } },
    sizing: { mode: "riskPercent", value: 1 },
  }).value;
  const settings = readSettings({
    format: "canyon.settings/1",
    markets: [{ symbol: "WARM", bars: "warm", timeframe: "1d", tick: 0.01 }],
    capital: 100_000,
    benchmark: "WARM",
    costs: { slippageTicks: 1 },
  }).value;
  if (strategy === null || settings === null) throw new Error("the warm-up's documents are broken");
  for (let round = 0; round < 4; round++) {
    const { run } = prepareBacktest(strategy, settings, [bars]);
    if (run === null) throw new Error("the warm-up's strategy is broken");
    viewOf(simulate(run, { record: true }), 0);
  }
}
