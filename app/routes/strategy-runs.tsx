import { Link } from "react-router";
import { strategyPage } from "#server/strategy-page";
import { Empty } from "~/design/panel";
import { RunsTable } from "~/runs/runs-table";
import { StrategyHead } from "~/strategies/head";
import type { Route } from "./+types/strategy-runs";

export const meta: Route.MetaFunction = ({ data: page }) => [{ title: `Runs of ${page?.version.strategyName ?? "a strategy"} · Canyon` }];
export const handle = { keys: [{ keys: "C", what: "set the marked runs beside each other" }] };

export { unlessSearch as shouldRevalidate } from "~/shell/revalidate";

export async function loader({ context, params }: Route.LoaderArgs) {
  const page = await strategyPage(context.services, Number(params.id), null);
  if (page === null) throw new Response("There is no such strategy.", { status: 404 });
  return { ...page, runs: await context.services.runs.ofStrategy(Number(params.id)) };
}

export default function StrategyRunsPage({ loaderData: { version, layers, counts, runs } }: Route.ComponentProps) {
  return (
    <>
      <StrategyHead
        id={version.strategyId}
        name={version.strategyName}
        about={`version ${version.number} · ${runs.length} stored ${runs.length === 1 ? "run" : "runs"}`}
        layers={layers}
        counts={counts}
      />
      {runs.length === 0 ? (
        <Empty
          title="No run stored yet"
          action={
            <Link to={`/strategies/${version.strategyId}`} className="quiet-link">
              To the rules
            </Link>
          }
        >
          A stored run is one backtest of one version, with a fingerprint by which it can be computed again to the last bit. “Save run”
          beside the rules stores one.
        </Empty>
      ) : (
        <RunsTable runs={runs} />
      )}
    </>
  );
}
