import { METRICS } from "#core/metrics";
import type { Pooling, Search } from "#core/optimize";
import type { OptimizationView } from "#server/optimizations";
import { decimal } from "~/design/format";
import { METHOD_WORDS } from "./method-state";

/** What is best in a search, in words. */
export function objectiveWords(objective: Search["objective"]): string {
  const one = ({ metric, want }: Search["objective"][number]) =>
    `${want === "more" ? "most" : "least"} ${METRICS[metric].label.toLowerCase()}`;
  if (objective.length === 1) return one(objective[0]);
  return objective.map((wish) => `${one(wish)} (${decimal(wish.weight, 1)})`).join(" and ");
}

/** How a search chooses its combinations, in words. */
export const methodWords = ({ method }: Search): string => METHOD_WORDS[method?.kind ?? "grid"].label;

const POOLING_WORDS: Record<Pooling, string> = {
  together: "",
  sum: "each market by itself, their sum",
  median: "each market by itself, the middle one",
  worst: "each market by itself, the worst one",
};

/** What is searched on, in words. */
export const marketWords = ({ settings, search }: Pick<OptimizationView, "settings" | "search">): string =>
  [settings.markets.map((market) => market.symbol).join(", "), POOLING_WORDS[search.pooling ?? "together"]]
    .filter((part) => part !== "")
    .join(", ");

/** What a search leaves out and what it was started from, in words; empty where there is nothing to say. */
export const originWords = ({ origin, search }: Pick<OptimizationView, "origin" | "search">): string =>
  [
    ...(search.withoutBest
      ? [`without the ${search.withoutBest === 1 ? "best trade" : `${search.withoutBest} best trades`} of every trial`]
      : []),
    ...(origin.without === null ? [] : [`without ${origin.without.symbols.join(", ")} (${origin.without.list})`]),
    ...(origin.plan === null ? [] : [`plan “${origin.plan}”`]),
  ].join(" · ");

/** Limits and condition of a search, in words; empty without any. */
export function limitWords({ limits, where }: Search): string {
  const bounds = limits.flatMap(({ metric, least, most }) => [
    ...(least === undefined ? [] : [`at least ${least} ${METRICS[metric].label.toLowerCase()}`]),
    ...(most === undefined ? [] : [`at most ${most} ${METRICS[metric].label.toLowerCase()}`]),
  ]);
  return [...bounds, ...(where ? [`only ${where}`] : [])].join(" · ");
}

/** What varies in a search and over which values, in words. */
export const varyWords = ({ vary }: Search): string =>
  vary
    .map(({ name, from, to, step, values }) =>
      values === undefined
        ? `${name} ${from} to ${to} by ${step}`
        : `${name} ${values.map((value) => (value === true ? "yes" : value === false ? "no" : value)).join(", ")}`,
    )
    .join("; ");
