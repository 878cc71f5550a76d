import type { Strategy } from "#core/documents";
import type { Search } from "#core/optimize";
import type { OptimizationView } from "./optimizations";

/** A search that a probe may repeat, in words. */
export interface SearchChoice {
  label: string;
  search: Pick<Search, "vary" | "where" | "method" | "objective" | "limits" | "mark">;
}

/** At most so many combinations make a search of the parameters' own ranges; a probe repeats it many times. */
const MOST = 2000;

/** The ranges that a version's parameters have, coarsened until their combinations are few enough; null without any. */
function ownRanges(strategy: Strategy): SearchChoice | null {
  const ranged = (strategy.parameters ?? []).flatMap(({ name, kind, min, max, step }) =>
    kind === "yesNo" || min === undefined || max === undefined || max <= min ? [] : [{ name, from: min, to: max, step: step ?? (kind === "whole" ? 1 : (max - min) / 10) }],
  );
  if (ranged.length === 0) return null;
  const counts = () => ranged.reduce((all, { from, to, step }) => all * (Math.floor((to - from) / step + 1e-9) + 1), 1);
  while (counts() > MOST) {
    const widest = ranged.reduce((a, b) => ((b.to - b.from) / b.step > (a.to - a.from) / a.step ? b : a));
    widest.step *= 2;
  }
  return {
    label: `the ranges of its parameters: ${ranged.map(({ name, from, to, step }) => `${name} ${from} to ${to} by ${step}`).join("; ")}`,
    search: { vary: ranged, method: { kind: "grid" }, objective: [{ metric: "profitToDrawdown", want: "more", weight: 1 }], limits: [] },
  };
}

/** Searches that probes of a version may repeat: those that were made on its line, the newest first, then its parameters' ranges. */
export function searchChoices(strategy: Strategy, optimizations: readonly OptimizationView[]): SearchChoice[] {
  const names = new Set([...(strategy.parameters ?? []).map(({ name }) => name), ...(strategy.definitions ?? []).map(({ name }) => name)]);
  const made = optimizations
    .filter(({ search }) => search.vary.every(({ name }) => names.has(name)))
    .map(({ number, versionNumber, search: { vary, where, method, objective, limits, mark } }): SearchChoice => ({
      label: `as in optimization ${number} of version ${versionNumber}: ${vary.map(({ name, from, to, step, values }) => (values === undefined ? `${name} ${from} to ${to} by ${step}` : `${name} ${values.join(", ")}`)).join("; ")}`,
      search: { vary, where, method, objective, limits, mark },
    }));
  const own = ownRanges(strategy);
  return own === null ? made : [...made, own];
}
