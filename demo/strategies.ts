import type { Strategy } from "#core/documents";

/** The three strategies that the demo stores with a run and a probe each. */
export const DEMO_STRATEGIES: readonly { market: string; strategy: Strategy }[] = [
  {
    market: "FERRY",
    strategy: {
      format: "canyon.strategy/1",
      name: "Ferry channel",
      notes:
        "Freight moves in long swings, since ships take years to build. Go with a new extreme of the last weeks, leave on the shorter one against it.",
      timeframe: "1d",
      parameters: [
        { name: "entry", kind: "whole", value: 40, min: 10, max: 80, step: 5, about: "bars whose extreme must be passed to enter" },
        { name: "exit", kind: "whole", value: 20, min: 5, max: 40, step: 5, about: "bars whose opposite extreme ends the trade" },
        { name: "stopDistance", kind: "number", value: 3, min: 1, max: 6, step: 0.5, about: "stop loss in average true ranges" },
      ],
      long: { enter: { when: "close > highest(high, entry) 1 back" }, exit: { when: "close < lowest(low, exit) 1 back" } },
      short: { enter: { when: "close < lowest(low, entry) 1 back" }, exit: { when: "close > highest(high, exit) 1 back" } },
      protect: { stop: { unit: "atr", value: "stopDistance", period: 20 } },
      sizing: { mode: "riskPercent", value: 1 },
    },
  },
  {
    market: "KELP",
    strategy: {
      format: "canyon.strategy/1",
      name: "Kelp two averages",
      notes: "Meal follows the catch, and the catch follows the season. A fast average above a slow one, always in the market.",
      timeframe: "1d",
      parameters: [
        { name: "fast", kind: "whole", value: 15, min: 5, max: 50, step: 5, about: "bars in the fast average" },
        { name: "slow", kind: "whole", value: 60, min: 20, max: 200, step: 10, about: "bars in the slow average" },
      ],
      definitions: [
        { name: "quick", rule: "ema(close, fast)" },
        { name: "calm", rule: "ema(close, slow)" },
      ],
      long: { enter: { when: "quick crosses above calm" } },
      short: { enter: { when: "quick crosses below calm" } },
      protect: { stop: { unit: "atr", value: 4, period: 20 } },
      sizing: { mode: "riskPercent", value: 1 },
      onOpposite: "reverse",
    },
  },
  {
    market: "PEAT",
    strategy: {
      format: "canyon.strategy/1",
      name: "Peat dip",
      notes:
        "Buy a dip in a rising market and sell into the bounce. Peat holds no edge at all: a good test of how much a result can flatter.",
      timeframe: "1d",
      parameters: [
        { name: "dip", kind: "whole", value: 15, min: 5, max: 35, step: 5, about: "RSI below which a dip is bought" },
        { name: "trend", kind: "whole", value: 100, min: 50, max: 250, step: 25, about: "bars in the average that says which way is up" },
        { name: "stopShare", kind: "number", value: 4, min: 1, max: 10, step: 1, about: "stop loss in percent of the entry" },
      ],
      long: { enter: { when: "rsi(2) < dip and close > sma(close, trend)" }, exit: { when: "rsi(2) > 70" } },
      protect: { stop: { unit: "percent", value: "stopShare" }, target: { unit: "percent", value: 6 } },
      sizing: { mode: "equityPercent", value: 60 },
    },
  },
];
