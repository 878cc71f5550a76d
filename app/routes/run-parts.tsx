import { useMemo } from "react";
import { data, Link, useFetcher, useSearchParams } from "react-router";
import { DAY } from "#core/bars";
import type { Trade } from "#core/documents";
import { fallsOf, figuresOf, GROUPINGS, groupsOf, standingApart, type Grouping } from "#core/reading";
import { isRefused } from "#server/problem";
import { runPage } from "#server/run-page";
import { ColumnsChart } from "~/charts/columns-chart";
import { Button } from "~/design/button";
import { Select } from "~/design/field";
import { dateText, decimal, signed, signedMoney } from "~/design/format";
import { Panel, Problems } from "~/design/panel";
import { FactsTable } from "~/runs/facts-table";
import { RunHead } from "~/runs/run-head";
import type { Route } from "./+types/run-parts";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `What made the money, ${page.summary.strategyName}, run ${page.summary.number} · Canyon` : "Run · Canyon" },
];

export { unlessSearch as shouldRevalidate } from "~/shell/revalidate";

export async function loader({ context, params }: Route.LoaderArgs) {
  const { services } = context;
  const run = await runPage(services, Number(params.id));
  if (run === null) throw new Response("There is no such run.", { status: 404 });
  const { trades, equity } = run.result;
  return {
    summary: run.summary,
    layers: run.layers,
    dates: run.dates,
    trades,
    equity: { time: equity.time, equity: equity.equity },
  };
}

/** Makes an exclusion list of the markets whose good trades stand apart, for optimizing without them. */
export async function action({ context, params, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { runs, lists } = context.services;
  const run = await runs.get(Number(params.id));
  if (run === null) throw new Response("There is no such run.", { status: 404 });
  const name = String(form.get("name"));
  const good = new Set(standingApart(run.result.trades).good);
  const symbols = [...new Set(run.result.trades.filter((trade) => good.has(trade.id)).map((trade) => trade.symbol))].sort();
  try {
    await lists.create(name, "exclude", { symbols, plus: [], minus: [] });
    return { made: name, problems: [] };
  } catch (error) {
    if (isRefused(error)) return data({ made: null, problems: error.problems }, { status: error.status });
    throw error;
  }
}

const WORDS: Record<Grouping, string> = {
  market: "market",
  side: "side",
  reason: "reason of the exit",
  year: "year of the exit",
  month: "month of the exit",
  weekday: "weekday of the entry",
  hour: "hour of the entry",
};
const COLUMNS = ["netProfit", "trades", "winRate", "averageTrade", "profitFactor", "tradeT"];

/** The result's parts: trades that stand apart, what is left without them, groups with subtotals, falls. */
export default function RunPartsPage({ loaderData: { summary, layers, dates, trades, equity } }: Route.ComponentProps) {
  const { settings } = summary;
  const [params, setParams] = useSearchParams();
  const fetcher = useFetcher<typeof action>();
  const times = useMemo(() => equity.time.map((text) => Date.parse(text)), [equity.time]);
  const days = (times[times.length - 1] - times[0]) / DAY + 1;
  const apart = useMemo(() => standingApart(trades), [trades]);
  const by = (GROUPINGS as readonly string[]).includes(params.get("by") ?? "") ? (params.get("by") as Grouping) : "year";
  const zones = useMemo(
    () => new Map(settings.markets.map((market) => [market.symbol, market.session?.zone ?? "UTC"])),
    [settings.markets],
  );
  const groups = useMemo(
    () => groupsOf(trades, by, settings.capital, days, (symbol) => zones.get(symbol) ?? "UTC"),
    [trades, by, settings.capital, days, zones],
  );
  const rows = useMemo(() => withoutRows(trades, apart, settings.capital, days), [trades, apart, settings.capital, days]);
  const falls = useMemo(() => fallsOf(times, equity.equity, settings.capital), [times, equity.equity, settings.capital]);
  const deepest = [...falls].sort((a, b) => b.percent - a.percent).slice(0, 10);
  const longest = falls.reduce((most, fall) => Math.max(most, fall.days), 0);
  return (
    <>
      <RunHead summary={summary} layers={layers} dates={dates} />
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
        <Panel
          flush
          title="Without what"
          note="the same trades, some of them left out; a strategy that needs one of them is a bet on its coming again"
        >
          <FactsTable
            fileName={`run-${summary.id}-without`}
            label="The result without parts of it"
            first="left out"
            columns={COLUMNS}
            rows={rows}
          />
        </Panel>
        <Panel title="Trades that stand apart" note={apartRule(apart)}>
          <div className="grid grid-cols-2 gap-6">
            <Apart title="Winners" ids={apart.good} trades={trades} run={summary.id} />
            <Apart title="Losers" ids={apart.bad} trades={trades} run={summary.id} />
          </div>
          <p className="mt-2 text-sm text-ink-soft">
            The good ones may not come again, so look at the result without them. The bad ones stay in: nobody promises that they will not.
          </p>
          {apart.good.length > 0 && settings.markets.length > 1 && (
            <fetcher.Form method="post" className="mt-2 flex flex-wrap items-center gap-3">
              <input type="hidden" name="name" value={`Outliers of ${summary.strategyName}, run ${summary.number}`} />
              <Button type="submit" small look="quiet" disabled={fetcher.state !== "idle"}>
                Their markets as an exclusion list
              </Button>
              <p className="min-w-0 flex-1 text-sm text-ink-soft">
                To optimize without the winners that may have decided everything. It is no list for trading: who leaves out what once won
                has looked at the answer.
              </p>
            </fetcher.Form>
          )}
          {fetcher.data && (
            <div className="mt-2" role="status">
              {fetcher.data.made !== null ? (
                <>
                  <Link className="quiet-link" to="/lists">
                    {fetcher.data.made}
                  </Link>{" "}
                  was made.
                </>
              ) : (
                <Problems problems={fetcher.data.problems} title="No list was made" />
              )}
            </div>
          )}
        </Panel>
        <Panel
          flush
          title="By group"
          aside={
            <Select
              label="Put together by"
              hideLabel
              className="w-56"
              value={by}
              choices={GROUPINGS.map((value) => ({ value, label: `by ${WORDS[value]}` }))}
              onChange={(value) => setParams((before) => (before.set("by", value), before), { replace: true, preventScrollReset: true })}
            />
          }
        >
          {groups.length === 0 ? (
            <p className="px-3.5 pb-3 text-ink-soft">No trade is closed yet.</p>
          ) : (
            <>
              <div className="px-3.5">
                <ColumnsChart
                  label={`Net by ${WORDS[by]}`}
                  names={groups.map((group) => group.key)}
                  values={groups.map((group) => group.net)}
                  fileName={`run-${summary.id}-by-${by}`}
                  format={signedMoney}
                />
              </div>
              <FactsTable
                fileName={`run-${summary.id}-groups-by-${by}`}
                label={`Trades by ${WORDS[by]}`}
                first={WORDS[by]}
                columns={COLUMNS}
                more="share of the net"
                maxHeight={320}
                rows={groups.map((group) => ({
                  key: group.key,
                  name: group.key,
                  figures: group.figures,
                  more: group.share === null ? "–" : `${decimal(100 * group.share, 1)} %`,
                }))}
              />
            </>
          )}
        </Panel>
        <Panel flush title="Falls of the equity" note={`${decimal(falls.length, 0)}; the ten deepest`}>
          <table className="w-full border-collapse">
            <thead className="text-sm text-ink-soft">
              <tr>
                {["peak", "lowest", "recovered", "days", "money", "%", ""].map((head, i) => (
                  <th key={head} scope="col" className={`px-3.5 py-1 font-normal ${i > 2 && i < 6 ? "text-right" : "text-left"}`}>
                    {head || <span className="sr-only">mark</span>}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {deepest.map((fall, i) => (
                <tr key={fall.start} className="border-t border-edge/60">
                  <td className="figure-text px-3.5 py-1">{dateText(fall.start)}</td>
                  <td className="figure-text px-3.5">{dateText(fall.low)}</td>
                  <td className="figure-text px-3.5">{fall.recovered === null ? "not yet" : dateText(fall.recovered)}</td>
                  <td className="figure-text px-3.5 text-right">{decimal(fall.days, 0)}</td>
                  <td className="figure-text px-3.5 text-right">{decimal(fall.money, 0)}</td>
                  <td className="figure-text px-3.5 text-right">{decimal(fall.percent, 1)}</td>
                  <td className="px-3.5 text-sm text-ink-soft">
                    {[i === 0 ? "the deepest" : "", fall.days === longest ? "the longest" : ""].filter((x) => x !== "").join(", ")}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {falls.length === 0 && <p className="px-3.5 py-3 text-ink-soft">The equity never fell below a peak.</p>}
        </Panel>
      </div>
    </>
  );
}

function apartRule({ above, below }: ReturnType<typeof standingApart>): string {
  const rule = "beyond the quartile plus three times the distance between the quartiles, winners and losers each for themselves";
  const bounds = [above === null ? "" : `above ${signed(above, 2)} %`, below === null ? "" : `below ${signed(below, 2)} %`].filter(
    (x) => x !== "",
  );
  return bounds.length === 0 ? "fewer than eight winners and eight losers: nothing to measure by" : `${rule}: here ${bounds.join(" and ")}`;
}

/** The figures of all trades, and without the parts that may have made them. */
function withoutRows(trades: readonly Trade[], apart: ReturnType<typeof standingApart>, capital: number, days: number) {
  const best = (by: Grouping) =>
    groupsOf(trades, by, capital, days).reduce<{ key: string; net: number } | null>(
      (top, group) => (top === null || group.net > top.net ? group : top),
      null,
    );
  const closed = trades.filter((trade) => !trade.open);
  const top = closed.reduce<Trade | null>((most, trade) => (most === null || trade.net > most.net ? trade : most), null);
  const [market, year] = [best("market"), best("year")];
  const rows = [{ key: "all", name: "nothing: all trades", strong: true, keep: (_: Trade) => true }];
  const add = (key: string, name: string, keep: (trade: Trade) => boolean) => rows.push({ key, name, strong: false, keep });
  if (apart.good.length > 0) {
    const out = new Set(apart.good);
    add(
      "apart",
      `the ${apart.good.length === 1 ? "winner that stands" : `${apart.good.length} winners that stand`} apart`,
      (trade) => !out.has(trade.id),
    );
  }
  if (top !== null) add("trade", `the best trade, number ${top.id}`, (trade) => trade.id !== top.id);
  if (year !== null)
    add("year", `the best year, ${year.key}`, (trade) => trade.exitTime === null || trade.exitTime.slice(0, 4) !== year.key);
  if (market !== null && new Set(trades.map((trade) => trade.symbol)).size > 1)
    add("market", `the best market, ${market.key}`, (trade) => trade.symbol !== market.key);
  add("long", "the long side", (trade) => trade.side === "short");
  add("short", "the short side", (trade) => trade.side === "long");
  return rows.map(({ keep, ...row }) => ({ ...row, figures: figuresOf(trades.filter(keep), capital, days) }));
}

function Apart({ title, ids, trades, run }: { title: string; ids: readonly number[]; trades: readonly Trade[]; run: number }) {
  const known = new Map(trades.map((trade) => [trade.id, trade]));
  return (
    <section aria-label={`${title} that stand apart`}>
      <h3 className="font-semibold">
        {title} <span className="font-normal text-ink-soft">{ids.length}</span>
      </h3>
      {ids.length === 0 ? (
        <p className="text-ink-soft">none</p>
      ) : (
        <ol className="max-h-48 overflow-auto">
          {ids.map((id) => {
            const trade = known.get(id)!;
            return (
              <li key={id} className="flex gap-3 border-t border-edge/60 py-0.5 first:border-t-0">
                <Link className="quiet-link" to={`/runs/${run}?trade=${id}`}>
                  trade {id}
                </Link>
                <span className="text-ink-soft">
                  {trade.symbol}, {trade.side}, {trade.entryTime.slice(0, 10)}
                </span>
                <span className="figure-text ml-auto">{signed(trade.percent!, 2)} %</span>
                <span className="figure-text w-24 text-right">{signedMoney(trade.net)}</span>
              </li>
            );
          })}
        </ol>
      )}
    </section>
  );
}
