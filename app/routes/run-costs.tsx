import { useMemo } from "react";
import { lineOf } from "#server/lines";
import { runPage } from "#server/run-page";
import { LinesChart } from "~/charts/lines-chart";
import { lineFrom } from "~/charts/sent-line";
import { decimal, money, signedMoney } from "~/design/format";
import { Panel } from "~/design/panel";
import { EdgeText } from "~/runs/edge-text";
import { RunHead } from "~/runs/run-head";
import type { Route } from "./+types/run-costs";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `What it cost, ${page.summary.strategyName}, run ${page.summary.number} · Canyon` : "Run · Canyon" },
];

export async function loader({ context, params }: Route.LoaderArgs) {
  const { services } = context;
  const run = await runPage(services, Number(params.id));
  if (run === null) throw new Response("There is no such run.", { status: 404 });
  const [{ edge, free }, { along }, curves] = await Promise.all([
    services.reading.costs(run),
    services.reading.alongOf(run),
    run.result.curves(),
  ]);
  const { time, equity } = curves;
  const kinds: [name: string, value: Float64Array][] = [
    ["commissions", along.commissions],
    ["spread", along.spread],
    ["slippage", along.slippage],
    ["financing", along.financing],
  ];
  const before = equity.map((value, t) => value + kinds.reduce((sum, [, cost]) => sum + cost[t], 0));
  return {
    summary: run.summary,
    layers: run.layers,
    dates: run.dates,
    metrics: run.result.head.metrics.all,
    edge,
    curves: [
      lineOf("as it was", time, equity),
      lineOf("the same trades before costs", time, before),
      lineOf("computed with no costs at all", time, free),
    ],
    kinds: kinds.filter(([, value]) => value[value.length - 1] !== 0).map(([name, value]) => lineOf(name, time, value)),
  };
}

const KINDS: readonly [key: string, name: string, where: string][] = [
  ["commissions", "commissions", "taken off each fill"],
  ["spreadCost", "spread", "inside the prices: half of it on every fill"],
  ["slippageCost", "slippage", "inside the prices of market and stop fills"],
  ["financing", "financing", "for nights; negative where it pays you"],
];

/** What costs took, by kind and over time, and how much more of them the result would bear. */
export default function RunCostsPage({ loaderData: { summary, layers, dates, metrics, edge, curves, kinds } }: Route.ComponentProps) {
  const lines = useMemo(() => curves.map((line) => lineFrom(line)), [curves]);
  const sums = useMemo(() => kinds.map((line) => lineFrom(line)), [kinds]);
  const total = KINDS.reduce((sum, [key]) => sum + (metrics[key] ?? 0), 0);
  const count = metrics.trades ?? 0;
  return (
    <>
      <RunHead summary={summary} layers={layers} dates={dates} />
      <div className="grid grid-cols-[minmax(330px,390px)_minmax(0,1fr)] items-start gap-3">
        <div className="flex flex-col gap-3">
          <Panel title="How much more would it bear">
            <EdgeText edge={edge} />
            <p className="mt-1 text-sm text-ink-soft">
              Solved by computing the run again under other costs, {edge.looked.length} times. Other costs are other fills and other trades,
              so that this is no mere division. Financing stays as it is.
            </p>
          </Panel>
          <Panel flush title="By kind" note={summary.settings.currency ?? "money"}>
            <table className="w-full border-collapse">
              <tbody>
                {KINDS.map(([key, name, where]) => (
                  <tr key={key} className="border-t border-edge/60 first:border-t-0" title={where}>
                    <th scope="row" className="px-3.5 py-1 text-left font-normal">
                      {name}
                    </th>
                    <td className="figure-text px-2 text-right">{money(metrics[key])}</td>
                    <td className="figure-text px-3.5 text-right text-ink-soft">
                      {total > 0 ? `${decimal((100 * (metrics[key] ?? 0)) / total, 0)} %` : "–"}
                    </td>
                  </tr>
                ))}
                <tr className="border-t border-edge bg-shade font-semibold">
                  <th scope="row" className="px-3.5 py-1 text-left">
                    all
                  </th>
                  <td className="figure-text px-2 text-right">{money(total)}</td>
                  <td />
                </tr>
              </tbody>
            </table>
          </Panel>
          <Panel title="For each trade">
            <dl className="grid grid-cols-[1fr_auto] gap-x-3 gap-y-0.5">
              {(
                [
                  ["average trade, net", signedMoney(metrics.averageTrade)],
                  ["costs of a trade", count > 0 ? money(total / count) : "–"],
                  [
                    "costs, share of the profit before them",
                    metrics.costShare === null ? "no profit before costs" : `${decimal(100 * metrics.costShare, 1)} %`,
                  ],
                  ["turnover a year, times the equity", decimal(metrics.turnoverPerYear, 1)],
                ] as const
              ).map(([name, value]) => (
                <div key={name} className="contents">
                  <dt className="text-ink-soft">{name}</dt>
                  <dd className="figure-text text-right">{value}</dd>
                </div>
              ))}
            </dl>
          </Panel>
        </div>
        <div className="flex min-w-0 flex-col gap-3">
          <Panel title="Equity, with and without costs">
            <LinesChart label="Equity with and without costs" lines={lines} fileName={`run-${summary.id}-costs`} />
          </Panel>
          {sums.length > 0 && (
            <Panel title="Costs so far, by kind" note="spread and slippage are inside the prices of the fills">
              <LinesChart label="Costs so far, by kind" lines={sums} height={240} fileName={`run-${summary.id}-costs-by-kind`} />
            </Panel>
          )}
        </div>
      </div>
    </>
  );
}
