import { Link } from "react-router";
import { strategyPage } from "#server/strategy-page";
import { Button } from "~/design/button";
import { Empty } from "~/design/panel";
import { OptimizationList } from "~/optimizations/list";
import { StrategyHead } from "~/strategies/head";
import type { Route } from "./+types/strategy-optimizations";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: `Optimizations of ${page?.version.strategyName ?? "a strategy"} · Canyon` },
];

export async function loader({ context, params }: Route.LoaderArgs) {
  const page = await strategyPage(context.services, Number(params.id), null);
  if (page === null) throw new Response("There is no such strategy.", { status: 404 });
  return { ...page, optimizations: await context.services.optimizations.list(Number(params.id)) };
}

export default function StrategyOptimizationsPage({ loaderData: { version, layers, counts, optimizations } }: Route.ComponentProps) {
  const start = (
    <Button asChild look="primary">
      <Link to={`/optimizations/new?version=${version.id}`}>Optimize…</Link>
    </Button>
  );
  return (
    <>
      <StrategyHead
        id={version.strategyId}
        name={version.strategyName}
        about={`version ${version.number}`}
        layers={layers}
        counts={counts}
        actions={start}
      />
      {optimizations.length === 0 ? (
        <Empty title="Nothing optimized yet" action={start}>
          An optimization computes a version for many parameter values and ranks them by an objective. Every trial is counted on this
          strategy's line.
        </Empty>
      ) : (
        <OptimizationList optimizations={optimizations} />
      )}
    </>
  );
}
