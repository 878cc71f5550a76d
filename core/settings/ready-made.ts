import type { SavedSettings } from "./saved";

/** Run settings that ship with Canyon: what a sceptic asks for first. */
export interface ReadyMadeSettings {
  key: string;
  name: string;
  about: string;
  saved: SavedSettings;
}

export const READY_MADE_SETTINGS: readonly ReadyMadeSettings[] = [
  {
    key: "no-costs",
    name: "No costs",
    about: "What the rules make before anybody is paid. Where little is left with costs, the costs are the strategy's problem.",
    saved: { costs: { of: "hand", times: 0 } },
  },
  {
    key: "market-costs",
    name: "The market's own costs",
    about: "The costs that are written down with the market.",
    saved: { costs: { of: "market", times: 1 } },
  },
  {
    key: "double-costs",
    name: "Double costs",
    about: "Twice the fees, the spread and the slippage. A result that does not survive it rests on an estimate.",
    saved: { costs: { of: "hand", times: 2 } },
  },
  {
    key: "pessimistic",
    name: "Pessimistic",
    about: "In doubt, what is worse came first inside a bar.",
    saved: { intrabar: "pessimistic", fineTimeframe: "none" },
  },
  {
    key: "optimistic",
    name: "Optimistic",
    about: "In doubt, what is better came first. The distance to pessimistic is what nobody can know from these bars.",
    saved: { intrabar: "optimistic", fineTimeframe: "none" },
  },
  {
    key: "path",
    name: "By the path",
    about: "Each bar goes from its open to the nearer of high and low, to the other, to its close.",
    saved: { intrabar: "path", fineTimeframe: "none" },
  },
  {
    key: "finest",
    name: "The finest bars decide",
    about: "Finer bars of the same market are walked inside each bar, so that little is left in doubt.",
    saved: { fineTimeframe: "finest" },
  },
  {
    key: "by-the-tick",
    name: "Rounded to the tick",
    about: "Prices of orders and fills lie on the market's ticks, rounded against you.",
    saved: { roundToTick: true },
  },
];
