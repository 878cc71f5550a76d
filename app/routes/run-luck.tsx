import { Link } from "react-router";
import type { Interval } from "#core/reading";
import { runPage } from "#server/run-page";
import { decimal, signed } from "~/design/format";
import { Panel } from "~/design/panel";
import { PlainTable } from "~/design/plain-table";
import { LuckAnswers } from "~/runs/luck-answers";
import { RunHead } from "~/runs/run-head";
import type { Route } from "./+types/run-luck";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `Is it luck? ${page.summary.strategyName}, run ${page.summary.number} · Canyon` : "Run · Canyon" },
];

export async function loader({ context, params }: Route.LoaderArgs) {
  const { services } = context;
  const run = await runPage(services, Number(params.id));
  if (run === null) throw new Response("There is no such run.", { status: 404 });
  return {
    summary: run.summary,
    layers: run.layers,
    dates: run.dates,
    metrics: run.result.head.metrics.all,
    ...(await services.reading.luck(run)),
  };
}

/** Whether the result could be luck: four answers, each with what it says, and what the same returns could have given. */
export default function RunLuckPage({ loaderData: { summary, layers, dates, metrics, luck, ledger } }: Route.ComponentProps) {
  const { answers, resampled, bestOfNoEdge } = luck;
  return (
    <>
      <RunHead summary={summary} layers={layers} dates={dates} />
      <div className="grid grid-cols-[minmax(0,1fr)_340px] items-start gap-3">
        <Panel title="Four answers" note="none of them can say yes by itself, nor where the sample is small">
          <LuckAnswers answers={answers} />
        </Panel>
        <Panel title="What was tried before it">
          <p>
            <span className="figure-text font-semibold">{decimal(ledger.total, 0)}</span> trials on this line: {decimal(ledger.tries, 0)}{" "}
            while writing, {decimal(ledger.runs, 0)} stored runs, {decimal(ledger.optimizations, 0)} in optimizations,{" "}
            {decimal(ledger.probes, 0)} in probes.
          </p>
          <p className="mt-2 text-ink-soft">
            The more is tried, the better the best of it looks by chance alone.{" "}
            {bestOfNoEdge !== null && (
              <>
                Without any edge, the best would show a Sharpe ratio of about <span className="figure-text">{signed(bestOfNoEdge, 2)}</span>
                ; this run shows <span className="figure-text">{metrics.sharpe === null ? "none" : signed(metrics.sharpe, 2)}</span>.
              </>
            )}
          </p>
          <p className="mt-2 text-sm">
            <Link className="quiet-link" to={`/strategies/${summary.strategyId}/evidence`}>
              Dates that nothing has seen yet say more: evidence
            </Link>
          </p>
        </Panel>
        {resampled !== null && (
          <Panel
            flush
            className="col-span-2"
            title="The same returns in another order"
            note={`drawn ${decimal(resampled.samples, 0)} times in blocks of ${resampled.block}, with a seed of the run's own, so that the figures stay the same`}
          >
            <PlainTable
              label="The same returns in another order"
              fileName={`run-${summary.id}-resampled`}
              heads={["figure", "one of twenty is below", "the middle", "one of twenty is above", "this run"]}
              rows={(
                [
                  ["Net profit, %", resampled.netPercent, metrics.netPercent],
                  ["CAGR, %", resampled.cagr, metrics.cagr],
                  ["Sharpe ratio", resampled.sharpe, metrics.sharpe],
                  ["Max drawdown, %", resampled.maxDrawdownPercent, metrics.maxDrawdownPercent],
                ] as [string, Interval | null, number | null][]
              ).map(([name, interval, own]) => {
                const figures = [interval?.low ?? null, interval?.middle ?? null, interval?.high ?? null, own];
                return { key: name, cells: [name, ...figures.map((value) => decimal(value, 2))], file: [name, ...figures] };
              })}
            />
          </Panel>
        )}
      </div>
    </>
  );
}
