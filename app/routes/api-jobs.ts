import type { Found } from "~/shell/palette";
import type { RunningJob } from "~/shell/jobs";
import type { Route } from "./+types/api-jobs";

/** What is running; with `find`, what the palette can go to. */
export async function loader({ context, request }: Route.LoaderArgs) {
  const { services } = context;
  if (new URL(request.url).searchParams.has("find")) {
    const [markets, strategies, portfolios] = await Promise.all([
      services.markets.list(),
      services.strategies.newest(),
      services.portfolios.list(),
    ]);
    const found: Found[] = [
      ...strategies.map((version) => ({
        group: "Strategies",
        name: version.strategyName,
        about: `version ${version.number}`,
        to: `/strategies/${version.strategyId}`,
      })),
      ...markets.map((market) => ({ group: "Markets", name: market.symbol, about: market.name, to: `/markets/${market.symbol}` })),
      ...portfolios.map((portfolio) => ({ group: "Portfolios", name: portfolio.name, to: `/portfolios/${portfolio.id}` })),
    ];
    return { found };
  }
  const jobs = await services.jobs.progress();
  if (jobs.length === 0) return [] as RunningJob[];
  const optimizations = await services.optimizations.list();
  return jobs.map((job): RunningJob => {
    const owner = optimizations.find((view) => view.job.id === job.id);
    return { ...job, to: owner ? `/optimizations/${owner.id}` : "/optimizations" };
  });
}
