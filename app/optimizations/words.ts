import { METRICS } from "#core/metrics";
import type { Search } from "#core/optimize";
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

/** Limits and condition of a search, in words; empty without any. */
export function limitWords({ limits, where }: Search): string {
  const bounds = limits.flatMap(({ metric, least, most }) => [
    ...(least === undefined ? [] : [`at least ${least} ${METRICS[metric].label.toLowerCase()}`]),
    ...(most === undefined ? [] : [`at most ${most} ${METRICS[metric].label.toLowerCase()}`]),
  ]);
  return [...bounds, ...(where ? [`only ${where}`] : [])].join(" · ");
}
