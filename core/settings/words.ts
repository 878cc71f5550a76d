import type { Costs, Settings } from "#core/documents";
import type { SavedCosts, SavedSettings } from "./saved";

/** A thing that saved run settings say: which one, and what, in words. */
export interface SettingFact {
  what: string;
  says: string;
}

const INTRABAR: Record<Settings["intrabar"], string> = {
  pessimistic: "in doubt, the stop came first",
  optimistic: "in doubt, the target came first",
  path: "by the path of the bar",
};

const COST_WORDS: readonly [key: keyof Costs, words: (x: string) => string][] = [
  ["perUnit", (x) => `${x} a unit`],
  ["perOrder", (x) => `${x} an order`],
  ["percent", (x) => `${x} % of the value`],
  ["minimum", (x) => `at least ${x} a fill`],
  ["spreadTicks", (x) => `spread ${x} ticks`],
  ["slippageTicks", (x) => `slippage ${x} ticks`],
  ["financingLongPercent", (x) => `financing ${x} % a year long`],
  ["financingShortPercent", (x) => `financing ${x} % a year short`],
];

function costsInWords(costs: SavedCosts): string {
  if (costs.of === "figures") {
    const parts = COST_WORDS.filter(([key]) => costs.figures[key] !== 0).map(([key, words]) => words(String(costs.figures[key])));
    return parts.length === 0 ? "none" : parts.join(", ");
  }
  if (costs.times === 0) return "none";
  const whose = costs.of === "hand" ? "those at hand" : "the market's own";
  return costs.times === 1 ? whose : `${whose}, times ${costs.times}`;
}

function datesInWords({ from, to }: NonNullable<SavedSettings["dates"]>): string {
  if (from === undefined && to === undefined) return "all there are";
  if (to === undefined) return `from ${from}`;
  return from === undefined ? `up to ${to}` : `${from} to ${to}`;
}

/** What saved run settings say, thing by thing, in the order of the form. */
export function settingFacts(saved: SavedSettings): SettingFact[] {
  const facts: SettingFact[] = [];
  const put = <T>(what: string, value: T | undefined, says: (value: T) => string) => {
    if (value !== undefined) facts.push({ what, says: says(value) });
  };
  put("markets", saved.markets, (symbols) => symbols.join(", "));
  put("dates", saved.dates, datesInWords);
  put("capital", saved.capital, (x) => x.toLocaleString("en"));
  put("leverage", saved.leverage, String);
  put("markets at once", saved.marketLimit, (x) => (x === "none" ? "no limit" : `at most ${x}`));
  put("without enough margin", saved.onLackOfMargin, (x) => (x === "reduce" ? "an entry is cut to what fits" : "an entry is skipped"));
  put("halt", saved.haltBelowPercent, (x) => `below ${x} % of the capital`);
  put("costs", saved.costs, costsInWords);
  put("stop and target in one bar", saved.intrabar, (x) => INTRABAR[x]);
  put("decided by finer bars", saved.fineTimeframe, (x) => (x === "none" ? "no" : x === "finest" ? "the finest there are" : `${x} bars`));
  put("prices of fills", saved.roundToTick, (x) => (x ? "rounded to the tick" : "as computed"));
  put("at the end", saved.closeAtEnd, (x) => (x ? "open trades are closed" : "open trades stay open"));
  return facts;
}

/** What changed from one version of saved run settings to the next; null where a thing was or is as at hand. */
export function settingDifferences(
  before: SavedSettings,
  now: SavedSettings,
): { what: string; before: string | null; now: string | null }[] {
  const old = new Map(settingFacts(before).map(({ what, says }) => [what, says]));
  const fresh = new Map(settingFacts(now).map(({ what, says }) => [what, says]));
  return [...new Set([...old.keys(), ...fresh.keys()])]
    .map((what) => ({ what, before: old.get(what) ?? null, now: fresh.get(what) ?? null }))
    .filter((one) => one.before !== one.now);
}
