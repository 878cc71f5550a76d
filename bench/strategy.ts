import { readSettings, readStrategy } from "#core/documents";

/** The strategy that both sides run. */
export const benchStrategy = (timeframe: string) =>
  readStrategy({
    format: "canyon.strategy/1",
    timeframe,
    parameters: [
      { name: "fast", kind: "whole", value: 20 },
      { name: "slow", kind: "whole", value: 100 },
    ],
    long: { enter: { when: "sma(close, fast) crosses above sma(close, slow)" } },
    short: { enter: { when: "sma(close, fast) crosses below sma(close, slow)" } },
    protect: { stop: { unit: "atr", value: 3, period: 14 }, target: { unit: "atr", value: 6, period: 14 } },
    sizing: { mode: "units", value: 10 },
  }).value!;

/** The same for the loop written by hand. */
export const handRules = (fast = 20, slow = 100) => ({
  fast,
  slow,
  period: 14,
  stopAtr: 3,
  targetAtr: 6,
  units: 10,
  slip: 0.01,
  perUnit: 0.02,
});

export const benchSettings = (timeframe: string) =>
  readSettings({
    format: "canyon.settings/1",
    markets: [{ symbol: "BENCH", bars: "bench", timeframe, tick: 0.01, margin: { mode: "fraction", value: 0.01 } }],
    capital: 100_000,
    costs: { slippageTicks: 1, perUnit: 0.02 },
  }).value!;
