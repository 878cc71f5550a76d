import { Link } from "react-router";
import { strategyPage } from "#server/strategy-page";
import { dateText, metricText, momentText } from "~/design/format";
import { Empty } from "~/design/panel";
import { Sparkline } from "~/design/sparkline";
import { StrategyHead } from "~/strategies/head";
import type { Route } from "./+types/strategy-runs";

export const meta: Route.MetaFunction = ({ data: page }) => [{ title: `Runs of ${page?.version.strategyName ?? "a strategy"} · Canyon` }];

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
        <div className="overflow-x-auto rounded-[4px] border border-edge bg-sheet">
          <table className="w-full border-collapse">
            <thead className="text-sm text-ink-soft">
              <tr>
                {["run", "version", "market", "dates", "equity", "net, %", "profit factor", "profit ÷ drawdown", "trades", "stored"].map(
                  (head, i) => (
                    <th key={head} scope="col" className={`px-3 py-2 font-normal ${i >= 5 ? "text-right" : "text-left"}`}>
                      {head}
                    </th>
                  ),
                )}
              </tr>
            </thead>
            <tbody>
              {runs.map((run) => (
                <tr key={run.id} className="border-t border-edge hover:bg-shade/50">
                  <th scope="row" className="px-3 py-1.5 text-left">
                    <Link to={`/runs/${run.id}`} className="no-underline hover:underline">
                      run {run.number}
                    </Link>
                  </th>
                  <td className="px-3">v{run.versionNumber}</td>
                  <td className="px-3">{run.settings.markets.map((market) => market.symbol).join(", ")}</td>
                  <td className="figure-text px-3">
                    {run.settings.from ?? "start"} to {run.settings.to ?? "end"}
                  </td>
                  <td className="px-3">
                    <Sparkline values={run.outline} base={run.settings.capital} label={`Equity of run ${run.number}`} />
                  </td>
                  {["netPercent", "profitFactor", "profitToDrawdown", "trades"].map((key) => (
                    <td key={key} className="figure-text px-3 text-right">
                      {metricText(key, run.metrics.all[key])}
                    </td>
                  ))}
                  <td className="figure-text px-3 text-right" title={momentText(run.createdAt)}>
                    {dateText(run.createdAt)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </>
  );
}
