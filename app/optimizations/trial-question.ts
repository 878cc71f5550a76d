import { METRIC_KEYS } from "#core/metrics";
import type { RowFilter, Search, Standing } from "#core/optimize";
import { keptFigures } from "#core/optimize";
import type { TrialQuestion } from "#server/trials";

/** Trials that are drawn as lines. */
export const LINES = 300;

const bound = (text: string | undefined): number | null =>
  text === undefined || text.trim() === "" || !Number.isFinite(Number(text)) ? null : Number(text);

/** Filters as the address has them: `key~least~most`, parted by commas. What is none is passed over. */
export const filtersOf = (text: string | null): RowFilter[] =>
  (text ?? "")
    .split(",")
    .filter((one) => one !== "")
    .map((one) => {
      const [key, least, most] = one.split("~");
      return { key, least: bound(least), most: bound(most) };
    });

/** Filters for the address; null where there are none. */
export const writeFilters = (filters: readonly RowFilter[]): string | null =>
  filters.length === 0 ? null : filters.map(({ key, least, most }) => `${key}~${least ?? ""}~${most ?? ""}`).join(",");

/** Figures that a table of trials shows until somebody chooses. */
export function firstColumns(search: Pick<Search, "figures" | "pooling" | "withoutBest" | "objective">): string[] {
  const kept = keptFigures(search);
  const usual = ["netProfit", "trades", "profitFactor", "maxDrawdownPercent", "profitToDrawdown", "sharpe", "winRate", "maxDrawdownClosed"];
  return [...new Set([...search.objective.map(({ metric }) => metric), ...usual.filter((key) => kept.has(key)).slice(0, 6)])];
}

/** Columns of a table of trials: those that were chosen, as far as the trials have them, and always what the objective looks at. */
export function columnsOf(
  search: Pick<Search, "figures" | "pooling" | "withoutBest" | "objective">,
  chosen: readonly string[] | null,
): string[] {
  if (chosen === null) return firstColumns(search);
  const kept = keptFigures(search);
  const known = chosen.filter((key) => kept.has(key));
  return [...new Set([...(known.length === 0 ? firstColumns(search) : known), ...search.objective.map(({ metric }) => metric)])];
}

/** Which trials an address asks for. */
export function questionOf(params: URLSearchParams, columns: readonly string[], names: readonly string[]): TrialQuestion {
  const sort = params.get("sort") ?? "-fit";
  const known = new Set([...METRIC_KEYS, ...names, "fit", "number"]);
  const show = params.get("show");
  return {
    sort: sort.replace(/^-/, ""),
    falling: sort.startsWith("-"),
    filters: filtersOf(params.get("f")).filter(({ key, least, most }) => known.has(key) && (least !== null || most !== null)),
    standing: (show === "inside" || show === "outside" ? show : "all") satisfies Standing,
    columns,
  };
}

/** The part of an address that says which trials are asked for, in which order. */
export function askedPart(params: URLSearchParams): string {
  const out = new URLSearchParams();
  for (const key of ["sort", "f", "show"]) {
    const value = params.get(key);
    if (value !== null) out.set(key, value);
  }
  return out.toString();
}
