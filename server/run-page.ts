import type { Strategy } from "#core/documents";
import { compileStrategy } from "#core/engine";
import { lookedAt } from "#core/rules";
import { layerOf, type Layer } from "./layers";
import type { StoredRun } from "./runs";
import type { Services } from "./services";

/** Formulas that the rules of a strategy look at, for columns and charts; none where it can't be compiled any more. */
export function formulasOf(strategy: Strategy): ReturnType<typeof lookedAt> {
  const compiled = compileStrategy(strategy).value;
  if (compiled === null) return [];
  const rules = [compiled.long, compiled.short].flatMap((side) => [side?.enter, side?.exit]).flatMap((rule) => rule ?? []);
  return lookedAt(rules, compiled.values);
}

export interface RunPage extends StoredRun {
  layers: Layer[];
  /** first and last date of the run */
  dates: [from: string, to: string];
}

/** What every page of a stored run shows: what it is, its result, its version's evidence. Null where there is none. */
export async function runPage(services: Services, id: number): Promise<RunPage | null> {
  const run = await services.runs.get(id);
  if (run === null) return null;
  const { time } = await run.result.curves();
  const date = (at: number) => new Date(at).toISOString().slice(0, 10);
  return {
    ...run,
    layers: (await services.probes.ofVersion(run.version.id)).map(layerOf),
    dates: [date(time[0]), date(time[time.length - 1])],
  };
}
