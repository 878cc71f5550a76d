import type { Services } from "./services";

/** Versions that a portfolio can take in: the newest of every strategy, survivors first, with the market each was last run on. */
export async function portfolioCandidates(services: Services) {
  const [versions, runs] = await Promise.all([services.strategies.newest(), services.runs.newest()]);
  const rank: Record<string, number> = { survivor: 0, candidate: 1, draft: 2, retired: 3 };
  return versions
    .map((version) => ({
      versionId: version.id,
      name: version.strategyName,
      number: version.number,
      status: version.status as string,
      market: runs.get(version.strategyId)?.settings.markets[0].symbol ?? version.settings?.markets[0].symbol ?? "",
    }))
    .sort((a, b) => rank[a.status] - rank[b.status]);
}
