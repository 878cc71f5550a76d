import type { Bars } from "#core/bars";
import { prepareRun, type PreparedRun } from "#core/engine";
import type { FigureSet } from "#core/metrics";
import { computeTrials, layGrid, type Grid, type Search } from "#core/optimize";
import { runMarkets, soleMember } from "#core/runs";
import { benchSettings, benchStrategy } from "./strategy";

let ready: { pass: number; grid: Grid; run: PreparedRun } | null = null;

/** Computes one chunk of the benchmark's optimization; every pass begins without columns. */
export default function work(task: { pass: number; bars: Bars; search: Search; from: number; to: number; figures: FigureSet }): number {
  if (ready?.pass !== task.pass) {
    const grid = layGrid(benchStrategy("1d"), task.search).value!;
    const settings = benchSettings("1d");
    ready = {
      pass: task.pass,
      grid,
      run: prepareRun([soleMember(grid.compiled, settings)], settings, runMarkets(settings, [task.bars], grid.compiled.timeframe)).value!,
    };
  }
  return computeTrials(ready.grid, ready.run, task.from, task.to, task.figures).length;
}
