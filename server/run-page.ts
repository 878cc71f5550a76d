import type { RunResult } from "#core/documents";
import { layerOf, type Layer } from "./probes";
import type { RunSummary } from "./runs";
import type { Services } from "./services";
import type { VersionView } from "./strategies";

export interface RunPage {
  summary: RunSummary;
  result: RunResult;
  version: VersionView;
  layers: Layer[];
  /** first and last date of the run */
  dates: [from: string, to: string];
}

/** What every page of a stored run shows: what it is, its result, its version's evidence. Null where there is none. */
export async function runPage(services: Services, id: number): Promise<RunPage | null> {
  const run = await services.runs.get(id);
  if (run === null) return null;
  const { time } = run.result.equity;
  return {
    ...run,
    layers: (await services.probes.ofVersion(run.version.id)).map(layerOf),
    dates: [time[0].slice(0, 10), time[time.length - 1].slice(0, 10)],
  };
}
