import { useEffect, useState } from "react";
import { Link, useNavigate } from "react-router";
import { strategyPage } from "#server/strategy-page";
import { Button } from "~/design/button";
import { dateText, metricText, momentText } from "~/design/format";
import { Empty } from "~/design/panel";
import { Sparkline } from "~/design/sparkline";
import { isTyping } from "~/shell/keys";
import { StrategyHead } from "~/strategies/head";
import type { Route } from "./+types/strategy-runs";

export const meta: Route.MetaFunction = ({ data: page }) => [{ title: `Runs of ${page?.version.strategyName ?? "a strategy"} · Canyon` }];

export const handle = { keys: [{ keys: "C", what: "set the marked runs beside each other" }] };

export async function loader({ context, params }: Route.LoaderArgs) {
  const page = await strategyPage(context.services, Number(params.id), null);
  if (page === null) throw new Response("There is no such strategy.", { status: 404 });
  return { ...page, runs: await context.services.runs.ofStrategy(Number(params.id)) };
}

export default function StrategyRunsPage({ loaderData: { version, layers, counts, runs } }: Route.ComponentProps) {
  const [marked, setMarked] = useState<number[]>([]);
  const navigate = useNavigate();
  const address = `/runs/compare?runs=${marked.join(",")}`;
  const able = marked.length >= 2 && marked.length <= 8;
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() !== "c" || event.ctrlKey || event.metaKey || event.altKey || isTyping(event) || !able) return;
      event.preventDefault();
      void navigate(address);
    };
    document.addEventListener("keydown", listen);
    return () => document.removeEventListener("keydown", listen);
  }, [able, address, navigate]);
  return (
    <>
      <StrategyHead
        id={version.strategyId}
        name={version.strategyName}
        about={`version ${version.number} · ${runs.length} stored ${runs.length === 1 ? "run" : "runs"}`}
        layers={layers}
        counts={counts}
        actions={
          runs.length > 1 && (
            <Button disabled={!able} onClick={() => void navigate(address)} title={marked.length > 8 ? "at most eight" : "C"}>
              {marked.length < 2 ? "Mark two to compare" : `Compare ${marked.length}`}
            </Button>
          )
        }
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
                <th scope="col" className="pl-3">
                  <span className="sr-only">marked</span>
                </th>
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
                  <td className="pl-3">
                    <input
                      type="checkbox"
                      aria-label={`Mark run ${run.number}`}
                      checked={marked.includes(run.id)}
                      onChange={(event) =>
                        setMarked((before) => (event.target.checked ? [...before, run.id] : before.filter((id) => id !== run.id)))
                      }
                    />
                  </td>
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
