import { Link } from "react-router";
import { strategyPage } from "#server/strategy-page";
import { ColumnsChart } from "~/charts/columns-chart";
import { LinesChart } from "~/charts/lines-chart";
import { decimal, momentText } from "~/design/format";
import { Panel } from "~/design/panel";
import { StrategyHead } from "~/strategies/head";
import { unlessSearch } from "~/shell/revalidate";
import type { Route } from "./+types/strategy-ledger";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: `Trial ledger of ${page?.version.strategyName ?? "a strategy"} · Canyon` },
];

export async function loader({ context, params }: Route.LoaderArgs) {
  const { services } = context;
  const page = await strategyPage(services, Number(params.id), null);
  if (page === null) throw new Response("There is no such strategy.", { status: 404 });
  const { version } = page;
  const market = version.settings === null ? null : await services.markets.bySymbol(version.settings.markets[0].symbol);
  const [spent, runs] = await Promise.all([services.ledgers.ofStrategy(version.strategyId), services.runs.ofStrategy(version.strategyId)]);
  const years =
    market === null
      ? []
      : await services.ledgers.ofData(
          market.symbol,
          new Date(market.firstTime).getUTCFullYear(),
          new Date(market.lastTime).getUTCFullYear(),
        );
  const newest = runs.find((run) => run.versionId === version.id) ?? runs[0] ?? null;
  const deflatingOf = async () => {
    const run = newest === null ? null : await services.runs.get(newest.id);
    return run === null ? null : services.reading.deflating(run);
  };
  return { ...page, spent, years, market: market?.symbol ?? null, run: newest?.number ?? null, deflating: await deflatingOf() };
}

export { unlessSearch as shouldRevalidate };

export default function LedgerPage({ loaderData }: Route.ComponentProps) {
  const { version, layers, counts, spent, years, market, run, deflating: given } = loaderData;
  const total = spent.reduce((sum, one) => sum + one.count, 0);
  return (
    <>
      <StrategyHead
        id={version.strategyId}
        name={version.strategyName}
        about={`every trial that was spent on its line: ${decimal(total, 0)} so far`}
        layers={layers}
        counts={counts}
      />
      <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] items-start gap-3">
        <Panel title="What spent them" flush>
          {spent.length === 0 ? (
            <p className="px-3.5 pb-3 text-ink-soft">No trial yet: look at a result, and it is counted here.</p>
          ) : (
            <div className="max-h-[560px] overflow-auto">
              <table aria-label="Trials" className="w-full border-collapse">
                <thead className="text-sm text-ink-soft">
                  <tr>
                    {["when", "spent by", "market", "dates", "trials", "so far"].map((head, k) => (
                      <th key={head} scope="col" className={`px-3.5 py-1 font-normal ${k > 3 ? "text-right" : "text-left"}`}>
                        {head}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {spent
                    .map((one, k) => ({ ...one, k, soFar: spent.slice(0, k + 1).reduce((sum, row) => sum + row.count, 0) }))
                    .reverse()
                    .map(({ k, what, count, from, to, markets, at, soFar, reference }) => (
                      <tr key={k} className="border-t border-edge/60">
                        <td className="figure-text px-3.5 py-1 whitespace-nowrap">{momentText(at)}</td>
                        <td className="px-3.5">
                          {what === "run" ? (
                            <Link to={`/runs/${reference}`}>a run</Link>
                          ) : what === "optimization" ? (
                            <Link to={`/optimizations/${reference}`}>an optimization</Link>
                          ) : what === "probe" ? (
                            "a probe"
                          ) : (
                            "changes by hand"
                          )}
                        </td>
                        <td className="px-3.5">{markets?.replaceAll(",", ", ") ?? "–"}</td>
                        <td className="figure-text px-3.5 whitespace-nowrap">
                          {from ?? "start"} to {to ?? "end"}
                        </td>
                        <td className="figure-text px-3.5 text-right">{decimal(count, 0)}</td>
                        <td className="figure-text px-3.5 text-right text-ink-soft">{decimal(soFar, 0)}</td>
                      </tr>
                    ))}
                </tbody>
              </table>
            </div>
          )}
        </Panel>
        <div className="flex flex-col gap-3">
          {given === null ? (
            <Panel title="What that does to a result">
              <p className="text-ink-soft">
                {run === null
                  ? "Save a run: its deflated Sharpe ratio tells what so many trials leave of it."
                  : "Fewer than two trials of this line have a Sharpe ratio that is known, so that their spread can’t be measured: save another run, or optimize."}
              </p>
            </Panel>
          ) : (
            <Panel title="What that does to a result" note={`the newest run, no. ${run}`}>
              <LinesChart
                label="Deflated Sharpe ratio by the number of trials"
                lines={[
                  {
                    name: "deflated Sharpe ratio, %",
                    time: given.points.map((point) => Math.log10(point.trials)),
                    value: given.points.map((point) => 100 * point.deflated),
                  },
                ]}
                height={190}
                fileName={`strategy-${version.strategyId}-ledger`}
                numbered="trials, powers of ten"
              />
              <p className="mt-1">
                With {decimal(total, 0)} trials on this line the best of them would have a Sharpe ratio of about{" "}
                {decimal(given.now.best, 2)} by luck alone; this run’s is {decimal(given.sharpe, 2)}, and its deflated Sharpe ratio is{" "}
                <b data-deflated>{decimal(100 * given.now.deflated, 1)} %</b>.
              </p>
              <p className="mt-1 text-sm text-ink-soft">
                Bailey and López de Prado 2014, with the spread of the Sharpe ratios of those trials that are known.
              </p>
            </Panel>
          )}
          {market !== null && years.length > 0 && (
            <Panel title={`Looks at ${market}’s years`} note="by every strategy">
              <ColumnsChart
                label="trials"
                names={years.map((one) => String(one.year))}
                values={years.map((one) => one.trials)}
                height={190}
                fileName="data-ledger"
                format={(x) => decimal(x, 0)}
              />
              <p className="mt-1 text-sm text-ink-soft">
                A trial counts for every year of the stretch that it ran on. A year that was looked at often can’t tell luck from skill any
                more.
              </p>
            </Panel>
          )}
        </div>
      </div>
    </>
  );
}
