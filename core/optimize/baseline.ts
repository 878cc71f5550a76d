import { simulate, type Compiled, type PreparedRun } from "#core/engine";
import { wholeFigures } from "#core/metrics";
import type { Search } from "./plan";
import { poolFigures } from "./pooling";

/** Figures of a strategy under any values, taken as a search's trials are; its own values where none are given. */
export function figuresAt(
  compiled: Compiled,
  runs: readonly PreparedRun[],
  { figures, pooling = "together", withoutBest = 0 }: Pick<Search, "figures" | "pooling" | "withoutBest">,
  values: Readonly<Record<string, number>> = {},
): Float64Array {
  const each = runs.map((run) => wholeFigures(simulate(run, { values: [{ ...compiled.values, ...values }] }), figures, withoutBest));
  return pooling === "together" ? each[0] : poolFigures(each, pooling);
}

/** The equity of a strategy under any values, at the first account's closes; of several accounts what they made together. */
export function equityAt(
  compiled: Compiled,
  runs: readonly PreparedRun[],
  values: Readonly<Record<string, number>> = {},
): { times: Float64Array; equity: Float64Array } {
  const [first, ...others] = runs.map((run) => ({
    times: run.clock.times,
    equity: simulate(run, { values: [{ ...compiled.values, ...values }] }).equity.slice(),
    capital: run.account.capital,
  }));
  const { times, equity } = first;
  for (const other of others) {
    let k = -1;
    for (let i = 0; i < times.length; i++) {
      while (k + 1 < other.times.length && other.times[k + 1] <= times[i]) k++;
      if (k >= 0) equity[i] += other.equity[k] - other.capital;
    }
  }
  return { times, equity };
}
