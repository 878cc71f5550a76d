import type { Strategy } from "#core/documents";
import { layerOf, type Layer } from "./layers";
import { SURVIVING } from "./portfolio-pool";
import type { Services } from "./services";

/** A version of the library that can be taken in. */
export interface Candidate {
  versionId: number;
  strategyId: number;
  name: string;
  number: number;
  status: string;
  /** whether it earned its place: survivor, or in a forward test */
  survivor: boolean;
  markets: string[];
  strategy: Strategy;
  layers: Layer[];
}

const RANK: Record<string, number> = { "forward test": 0, survivor: 0, candidate: 1, draft: 2, retired: 3 };

/**
 * Versions that a portfolio can take in: the newest of every strategy, and those that it holds already. Survivors first, each
 * with the markets that it was last run on.
 */
export async function portfolioCandidates(services: Services, held: readonly number[] = []): Promise<Candidate[]> {
  const [newest, runs] = await Promise.all([services.strategies.newest(), services.runs.newest()]);
  const more = await Promise.all(
    held.filter((id) => !newest.some((version) => version.id === id)).map((id) => services.strategies.version(id)),
  );
  const versions = [...newest, ...more.flatMap((version) => (version === null ? [] : [version]))];
  const out = await Promise.all(
    versions.map(async (version) => ({
      versionId: version.id,
      strategyId: version.strategyId,
      name: version.strategyName,
      number: version.number,
      status: version.status as string,
      survivor: SURVIVING.includes(version.status),
      markets: ((runs.get(version.strategyId)?.settings ?? version.settings)?.markets ?? []).map(({ symbol }) => symbol),
      strategy: version.strategy,
      layers: (await services.probes.ofVersion(version.id)).map(layerOf),
    })),
  );
  return out.sort((a, b) => RANK[a.status] - RANK[b.status]);
}
