import type { Strategy } from "#core/documents";
import type { Search } from "#core/optimize";
import { ownSearch } from "#core/probes";
import type { OptimizationView } from "./optimizations";

/** A search that a probe may repeat, in words. */
export interface SearchChoice {
  label: string;
  search: Pick<Search, "vary" | "where" | "method" | "objective" | "limits" | "mark">;
}

/** Searches that probes of a version may repeat: those that were made on its line, the newest first, then its parameters' ranges. */
export function searchChoices(strategy: Strategy, optimizations: readonly OptimizationView[]): SearchChoice[] {
  const names = new Set([...(strategy.parameters ?? []).map(({ name }) => name), ...(strategy.definitions ?? []).map(({ name }) => name)]);
  const made = optimizations
    .filter(({ search }) => search.vary.every(({ name }) => names.has(name)))
    .map(({ number, versionNumber, search: { vary, where, method, objective, limits, mark } }): SearchChoice => ({
      label: `as in optimization ${number} of version ${versionNumber}: ${searchWords({ vary })}`,
      search: { vary, where, method, objective, limits, mark },
    }));
  const own = ownSearch(strategy);
  return own === null ? made : [...made, { label: `the ranges of its parameters: ${searchWords(own)}`, search: own }];
}

const searchWords = ({ vary }: Pick<Search, "vary">): string =>
  vary
    .map(({ name, from, to, step, values }) =>
      values === undefined ? `${name} ${from} to ${to} by ${step}` : `${name} ${values.join(", ")}`,
    )
    .join("; ");
