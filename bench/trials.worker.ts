import type { Bars } from "#core/bars";
import { prepareRun, type PreparedRun } from "#core/engine";
import { computeTrials, layGrid, type Grid, type Search } from "#core/optimize";
import { runMarkets, soleMember } from "#core/runs";
import { benchSettings, benchStrategy } from "./strategy";

let ready: { grid: Grid; run: PreparedRun } | null = null;

/** Computes one chunk of the benchmark's optimization. */
export default function work(task: { bars: Bars; search: Search; from: number; to: number }): number {
  if (ready === null) {
    const grid = layGrid(benchStrategy("1d"), task.search).value!;
    const settings = benchSettings("1d");
    ready = {
      grid,
      run: prepareRun([soleMember(grid.compiled, settings)], settings, runMarkets(settings, [task.bars], grid.compiled.timeframe)).value!,
    };
  }
  return computeTrials(ready.grid, ready.run, task.from, task.to).length;
}
