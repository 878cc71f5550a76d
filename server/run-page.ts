import { layerOf, type Layer } from "./probes";
import type { StoredRun } from "./runs";
import type { Services } from "./services";

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
