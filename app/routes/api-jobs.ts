import type { Found } from "~/shell/palette";
import { jobPlaces } from "#server/job-places";
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
      ...[
        { name: "Import bars", about: "CSV, .gz or .zip", to: "/markets/import" },
        { name: "Imports", about: "files on their way, revised bars", to: "/imports" },
        { name: "Lists of markets", about: "to watch, to leave out", to: "/lists" },
        { name: "Work", about: "what runs and what waits", to: "/jobs" },
        { name: "Calendars", about: "hours, holidays, early closes", to: "/calendars" },
      ].map((place) => ({ group: "Data", ...place })),
      ...portfolios.map((portfolio) => ({ group: "Portfolios", name: portfolio.name, to: `/portfolios/${portfolio.id}` })),
    ];
    return { found };
  }
  const jobs = await services.jobs.progress();
  if (jobs.length === 0) return [] as RunningJob[];
  const place = await jobPlaces(services);
  return jobs.map((job): RunningJob => ({ ...job, to: place(job) }));
}
