import type { Cascade } from "./document";

/** Cascades that ship with Canyon. Their criteria were set before anything was run through them. */
export const READY_MADE_CASCADES: readonly Cascade[] = [
  {
    format: "canyon.cascade/1",
    name: "First sieve",
    about: "Seconds for each version: what worse fills, costs and mere chance leave of it.",
    goOn: false,
    stages: [
      { probe: "randomEntries", input: { runs: 1000, criteria: { better: 95 } } },
      { probe: "raisedCosts", input: { most: 4, at: 1.5, criteria: { edge: 1.5, profitFactor: 1.05 } } },
      { probe: "otherFills", input: { repeats: 100, criteria: { lowest: 1.05, late: 1.05, missed: 70 } } },
    ],
  },
  {
    format: "canyon.cascade/1",
    name: "Shaken all round",
    about: "Half a minute: unseen dates, shaken numbers, shuffled trades, moved prices.",
    goOn: false,
    stages: [
      { probe: "outOfSample", input: { split: "70%", criteria: { profitFactor: 1.1, trades: 10 } } },
      { probe: "shuffledTrades", input: { runs: 2000, criteria: { drawdown: 40, ruin: 2 } } },
      { probe: "shakenParameters", input: { runs: 200, criteria: { share: 75, kept: 40 } } },
      { probe: "shakenData", input: { runs: 100, criteria: { share: 75 } } },
    ],
  },
  {
    format: "canyon.cascade/1",
    name: "Before money",
    about: "Minutes: all that can be asked of a version without opening its seal, from the cheapest to the dearest.",
    goOn: false,
    stages: [
      { probe: "randomEntries", input: { runs: 2000, criteria: { better: 95 } } },
      { probe: "raisedCosts", input: { most: 4, at: 1.5, criteria: { edge: 1.5, profitFactor: 1.05 } } },
      { probe: "outOfSample", input: { split: "70%", criteria: { profitFactor: 1.1, trades: 10 } } },
      { probe: "otherFills", input: { repeats: 100, criteria: { lowest: 1.05, late: 1.05, missed: 70 } } },
      { probe: "shuffledTrades", input: { runs: 2000, criteria: { drawdown: 40, ruin: 2 } } },
      { probe: "shakenParameters", input: { runs: 300, criteria: { share: 75, kept: 40 } } },
      { probe: "walkForward", input: { windows: 8, outShare: 25, criteria: { net: 0, profitable: 50 } } },
      { probe: "permutedBars", input: { repetitions: 39, days: 1, criteria: { luck: 5 } } },
    ],
  },
];
