import type { Layer } from "./layers";
import { layerOf } from "./layers";
import type { Services } from "./services";
import type { VersionView } from "./strategies";

export interface StrategyPage {
  versions: VersionView[];
  version: VersionView;
  layers: Layer[];
  counts: { runs: number; optimizations: number; probes: number; versions: number };
}

/** What every page of a strategy shows: its versions, the one looked at (the newest, or by number), its evidence. Null where there is none. */
export async function strategyPage(services: Services, id: number, number: number | null): Promise<StrategyPage | null> {
  const versions = await services.strategies.versionsOf(id);
  const version = number === null ? versions.at(-1) : versions.find((v) => v.number === number);
  if (version === undefined) return null;
  const [counts, probes] = await Promise.all([services.strategies.counts(id), services.probes.ofVersion(version.id)]);
  return { versions, version, layers: probes.map(layerOf), counts: { ...counts, versions: versions.length } };
}
