import type { Settings } from "#core/documents";
import { METRICS } from "#core/metrics";
import type { TrialTable } from "#core/optimize";

/** The figure that tells whether an account was lost. */
export const ACCOUNT_FIGURE = "netPercent";

/** Limits that a trial breaks, objectives that it has no value for, and whether it lost its account; in words. */
export function faultsOf(table: TrialTable, row: number, settings: Pick<Settings, "haltBelowPercent">): string[] {
  const lost = table.column(ACCOUNT_FIGURE)[row] <= settings.haltBelowPercent - 100;
  return [
    ...(lost ? ["the account was lost"] : []),
    ...table.broken(row).map((limit) => {
      const name = METRICS[limit.metric].label.toLowerCase();
      const value = table.column(limit.metric)[row];
      if ("lacks" in limit || Number.isNaN(value)) return `no ${name}`;
      return value < (limit.least ?? -Infinity) ? `${name} below ${limit.least}` : `${name} above ${limit.most}`;
    }),
  ];
}
