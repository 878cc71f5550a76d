import { useMemo } from "react";
import { data, Link, useFetcher, useSearchParams } from "react-router";
import { DAY } from "#core/bars";
import { exitMoment, type Curves, type Trade } from "#core/documents";
import { fallsOf, figuresOf, GROUPINGS, groupsOf, rankedByPercent, standingApart, type Grouping } from "#core/reading";
import { isRefused } from "#server/problem";
import { runPage } from "#server/run-page";
import { sectorsOf } from "#server/sectors";
import { ColumnsChart } from "~/charts/columns-chart";
import { Button } from "~/design/button";
import { Select } from "~/design/field";
import { dateText, decimal, signed, signedMoney } from "~/design/format";
import { Panel, Problems } from "~/design/panel";
import { PlainTable } from "~/design/plain-table";
import { FactsTable } from "~/runs/facts-table";
import { GROUPING_WORDS } from "~/runs/grouping-words";
import { PartsAhead, PartWaits } from "~/runs/part-waits";
import { RunHead } from "~/runs/run-head";
import { useRunPart } from "~/runs/use-part";
import type { Route } from "./+types/run-parts";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `What made the money, ${page.summary.strategyName}, run ${page.summary.number} · Canyon` : "Run · Canyon" },
];

export { unlessSearch as shouldRevalidate } from "~/shell/revalidate";

export async function loader({ context, params }: Route.LoaderArgs) {
  const { services } = context;
  const run = await runPage(services, Number(params.id));
  if (run === null) throw new Response("There is no such run.", { status: 404 });
  return {
    summary: run.summary,
    layers: run.layers,
    dates: run.dates,
    sectors: await sectorsOf(services),
  };
}

/** Makes an exclusion list of the markets whose good trades stand apart, for optimizing without them. */
export async function action({ context, params, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { runs, lists } = context.services;
  const run = await runs.get(Number(params.id));
  if (run === null) throw new Response("There is no such run.", { status: 404 });
  const name = String(form.get("name"));
  const trades = await run.result.trades();
  const good = new Set(standingApart(trades).good);
  const symbols = [...new Set(trades.filter((trade) => good.has(trade.id)).map((trade) => trade.symbol))].sort();
  try {
    await lists.create(name, "exclude", { symbols, plus: [], minus: [] });
    return { made: name, problems: [] };
  } catch (error) {
    if (isRefused(error)) return data({ made: null, problems: error.problems }, { status: error.status });
    throw error;
  }
}

const COLUMNS = ["netProfit", "trades", "winRate", "averageTrade", "profitFactor", "tradeT"];

export default function RunPartsPage({ loaderData }: Route.ComponentProps) {
  const { summary, layers, dates } = loaderData;
  const trades = useRunPart(summary, "trades");
  const curves = useRunPart(summary, "curves");
  return (
    <>
      <PartsAhead run={summary} parts={["trades", "curves"]} />
      <RunHead summary={summary} layers={layers} dates={dates} />
      {trades.value === undefined || curves.value === undefined ? (
        <Panel>
          <PartWaits parts={[trades, curves]} what="the trades" height={400} />
        </Panel>
      ) : (
        <Parts {...loaderData} trades={trades.value} curves={curves.value} />
      )}
    </>
  );
}

/** The result's parts: trades that stand apart, what is left without them, groups with subtotals, falls. */
function Parts({
  summary,
  trades,
  curves: { time: times, equity },
  sectors,
}: Route.ComponentProps["loaderData"] & { trades: readonly Trade[]; curves: Curves }) {
  const { settings } = summary;
  const [params, setParams] = useSearchParams();
  const fetcher = useFetcher<typeof action>();
  const days = (times[times.length - 1] - times[0]) / DAY + 1;
  const apart = useMemo(() => standingApart(trades), [trades]);
  const by = (GROUPINGS as readonly string[]).includes(params.get("by") ?? "") ? (params.get("by") as Grouping) : "year";
  const zones = useMemo(
    () => new Map(settings.markets.map((market) => [market.symbol, market.session?.zone ?? "UTC"])),
    [settings.markets],
  );
  const groups = useMemo(
    () =>
      groupsOf(trades, by, settings.capital, days, {
        zoneOf: (symbol) => zones.get(symbol) ?? "UTC",
        sectorOf: (symbol) => sectors[symbol] ?? "other",
      }),
    [trades, by, settings.capital, days, zones, sectors],
  );
  const rows = useMemo(() => withoutRows(trades, apart, settings.capital, days), [trades, apart, settings.capital, days]);
  const falls = useMemo(() => fallsOf(times, equity, settings.capital), [times, equity, settings.capital]);
  const deepest = useMemo(() => [...falls].sort((a, b) => b.percent - a.percent).slice(0, 10), [falls]);
  const longest = falls.reduce((most, fall) => Math.max(most, fall.days), 0);
  return (
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
          <Ranked title="Winners" end="best" apart={apart.good} trades={trades} run={summary.id} />
          <Ranked title="Losers" end="worst" apart={apart.bad} trades={trades} run={summary.id} />
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
              To optimize without the winners that may have decided everything. It is no list for trading: who leaves out what once won has
              looked at the answer.
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
            choices={GROUPINGS.map((value) => ({ value, label: `by ${GROUPING_WORDS[value]}` }))}
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
                label={`Net by ${GROUPING_WORDS[by]}`}
                names={groups.map((group) => group.key)}
                values={groups.map((group) => group.net)}
                fileName={`run-${summary.id}-by-${by}`}
                format={signedMoney}
              />
            </div>
            <FactsTable
              fileName={`run-${summary.id}-groups-by-${by}`}
              label={`Trades by ${GROUPING_WORDS[by]}`}
              first={GROUPING_WORDS[by]}
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
        <PlainTable
          label="Falls of the equity"
          fileName={`run-${summary.id}-falls`}
          heads={["peak", "lowest", "recovered", "mark", "days", "money", "%"]}
          words={4}
          rows={deepest.map((fall, i) => {
            const recovered = fall.recovered === null ? "not yet" : dateText(fall.recovered);
            const mark = [i === 0 ? "the deepest" : "", fall.days === longest ? "the longest" : ""].filter((x) => x !== "").join(", ");
            return {
              key: fall.start,
              cells: [
                dateText(fall.start),
                dateText(fall.low),
                recovered,
                mark,
                decimal(fall.days, 0),
                decimal(fall.money, 0),
                decimal(fall.percent, 1),
              ],
              file: [dateText(fall.start), dateText(fall.low), recovered, mark, fall.days, fall.money, fall.percent],
            };
          })}
        />
        <p className="px-3.5 py-2 text-sm">
          <Link className="quiet-link" to={`/runs/${summary.id}/along`}>
            What each market lost in them
          </Link>
        </p>
        {falls.length === 0 && <p className="px-3.5 py-3 text-ink-soft">The equity never fell below a peak.</p>}
      </Panel>
    </div>
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
    add("year", `the best year, ${year.key}`, (trade) => trade.open || new Date(exitMoment(trade)).getUTCFullYear() !== Number(year.key));
  if (market !== null && new Set(trades.map((trade) => trade.symbol)).size > 1)
    add("market", `the best market, ${market.key}`, (trade) => trade.symbol !== market.key);
  add("long", "the long side", (trade) => trade.side === "short");
  add("short", "the short side", (trade) => trade.side === "long");
  return rows.map(({ keep, ...row }) => ({ ...row, figures: figuresOf(trades.filter(keep), capital, days) }));
}

const RANKED = 12;
const MOST_RANKED = 100;

/** The best or the worst by percent, with the jump to the next in the list; those that stand apart are marked. */
function Ranked({
  title,
  end,
  apart,
  trades,
  run,
}: {
  title: string;
  end: "best" | "worst";
  apart: readonly number[];
  trades: readonly Trade[];
  run: number;
}) {
  const ranked = useMemo(
    () => rankedByPercent(trades, end, Math.min(MOST_RANKED, Math.max(RANKED, apart.length + 3))),
    [trades, end, apart],
  );
  const marked = new Set(apart);
  return (
    <section aria-label={`${title} that stand apart`}>
      <h3 className="font-semibold">
        {title} <span className="font-normal text-ink-soft">{apart.length} stand apart</span>
      </h3>
      <PlainTable
        label={`${title} by percent`}
        fileName={`run-${run}-${end}-by-percent`}
        maxHeight={260}
        heads={["trade", "market", "entry", "%", "jump to the next", "net"]}
        words={3}
        rows={ranked.map(({ trade, percent, jump }) => ({
          key: trade.id,
          strong: marked.has(trade.id),
          cells: [
            <Link key="link" className="quiet-link whitespace-nowrap" to={`/runs/${run}?trade=${trade.id}`}>
              {marked.has(trade.id) ? "◆ " : ""}trade {trade.id}
            </Link>,
            `${trade.symbol}, ${trade.side}`,
            <span key="entry" className="whitespace-nowrap">
              {trade.entryTime.slice(0, 10)}
            </span>,
            signed(percent, 2),
            decimal(jump, 2),
            signedMoney(trade.net),
          ],
          file: [trade.id, `${trade.symbol} ${trade.side}`, trade.entryTime, percent, jump, trade.net],
        }))}
      />
      {apart.length > MOST_RANKED && <p className="text-sm text-ink-soft">the first {MOST_RANKED} are shown</p>}
    </section>
  );
}
