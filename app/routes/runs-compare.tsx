import { useMemo } from "react";
import { Link } from "react-router";
import type { Trade } from "#core/documents";
import { isRefused } from "#server/problem";
import { LinesChart, type Line } from "~/charts/lines-chart";
import { signedMoney } from "~/design/format";
import { Empty, PageHead, Panel, Problems } from "~/design/panel";
import { useAddress } from "~/design/use-address";
import { FiguresBeside } from "~/runs/figures-beside";
import { KEY_METRICS, OTHER_METRICS } from "~/runs/report-keys";
import { DifferenceList } from "~/strategies/difference-list";
import type { Route } from "./+types/runs-compare";

export const meta: Route.MetaFunction = () => [{ title: "Runs beside each other · Canyon" }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const text = new URL(request.url).searchParams.get("runs") ?? "";
  const ids = [
    ...new Set(
      text
        .split(",")
        .filter((one) => one !== "")
        .map(Number),
    ),
  ];
  if (ids.length === 0) return { runs: [], problems: [] };
  try {
    return { runs: await context.services.reading.compare(ids), problems: [] };
  } catch (error) {
    if (isRefused(error)) return { runs: [], problems: error.problems };
    throw error;
  }
}

/** Up to eight stored runs beside each other: curves, figures, what differs between their rules and settings, and their trades. */
export default function RunsComparePage({ loaderData: { runs, problems } }: Route.ComponentProps) {
  const { params, set } = useAddress();
  const rebased = params.get("curves") !== "money";
  const names = runs.map(({ summary }) => `${summary.strategyName}, run ${summary.number}`);
  const lines = useMemo<Line[]>(
    () =>
      runs.map(({ line, summary }, i) => ({
        name: names[i],
        time: line.time,
        value: line.value.map((value) => (value === null ? null : rebased ? (100 * value) / summary.settings.capital : value)),
      })),
    // names follow from the runs
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [runs, rebased],
  );
  if (runs.length === 0)
    return (
      <>
        <PageHead title="Runs beside each other" />
        {problems.length > 0 ? (
          <Problems problems={problems} title="These can't be compared" />
        ) : (
          <Empty title="No run chosen yet">Mark runs in a strategy’s list of runs and press C, or the button above it.</Empty>
        )}
      </>
    );
  const all = params.get("figures") === "all";
  return (
    <>
      <PageHead
        title="Runs beside each other"
        about={
          <>
            {runs.length}, each against the first:{" "}
            {runs.map(({ summary }, i) => (
              <span key={summary.id}>
                {i > 0 && ", "}
                <Link className="quiet-link" to={`/runs/${summary.id}`}>
                  {names[i]}
                </Link>
              </span>
            ))}
          </>
        }
      />
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
        <Panel
          title={rebased ? "Equity, the capital as 100" : "Equity in money"}
          aside={
            <button type="button" className="quiet-link" onClick={() => set("curves", rebased ? "money" : null)}>
              {rebased ? "in money" : "the capital as 100"}
            </button>
          }
        >
          <LinesChart label="Equity of the runs" lines={lines} fileName="runs" />
        </Panel>
        <Panel
          flush
          title="Figures"
          note="marked ◆ where one differs from the first by more than a tenth"
          aside={
            <button type="button" className="quiet-link" onClick={() => set("figures", all ? null : "all")}>
              {all ? "the dozen that decide" : "all figures"}
            </button>
          }
        >
          <FiguresBeside
            label="Figures of the runs"
            fileName="runs-beside-each-other"
            names={names}
            metrics={runs.map(({ summary }) => summary.metrics.all)}
            keys={all ? [...KEY_METRICS, ...OTHER_METRICS] : KEY_METRICS}
            currency={runs[0].summary.settings.currency ?? undefined}
          />
        </Panel>
        {runs.slice(1).map((run, i) => (
          <Panel key={run.summary.id} title={`${names[i + 1]} against ${names[0]}`}>
            <div className="grid grid-cols-2 gap-6">
              <section aria-label="Rules">
                <h3 className="font-semibold">Rules</h3>
                <DifferenceList differences={run.rules} />
                <h3 className="mt-2 font-semibold">Run settings</h3>
                <DifferenceList differences={run.settings} prose />
              </section>
              <section aria-label="Trades">
                <h3 className="font-semibold">Trades</h3>
                <p className="text-ink-soft">{run.trades!.both} begin on the same bar, in the same market and on the same side.</p>
                <Only title={`only ${names[0]}`} trades={run.trades!.onlyFirst} run={runs[0].summary.id} />
                <Only title={`only ${names[i + 1]}`} trades={run.trades!.onlySecond} run={run.summary.id} />
              </section>
            </div>
          </Panel>
        ))}
      </div>
    </>
  );
}

function Only({ title, trades, run }: { title: string; trades: readonly Trade[]; run: number }) {
  if (trades.length === 0) return null;
  const net = trades.reduce((sum, trade) => sum + trade.net, 0);
  return (
    <details className="mt-1">
      <summary>
        {trades.length} {title}, <span className="figure-text">{signedMoney(net)}</span>
      </summary>
      <ul className="max-h-48 overflow-auto text-sm">
        {trades.slice(0, 500).map((trade) => (
          <li key={trade.id} className="flex gap-3">
            <Link className="quiet-link" to={`/runs/${run}?trade=${trade.id}`}>
              trade {trade.id}
            </Link>
            <span className="text-ink-soft">
              {trade.symbol}, {trade.side}, {trade.entryTime.slice(0, 10)}
            </span>
            <span className="figure-text ml-auto">{signedMoney(trade.net)}</span>
          </li>
        ))}
        {trades.length > 500 && <li className="text-ink-soft">and {trades.length - 500} more</li>}
      </ul>
    </details>
  );
}
