import { memo, useCallback, useMemo } from "react";
import { DAY } from "#core/bars";
import { entryMoment, type Trade, type TradeLevels } from "#core/documents";
import { median } from "#core/metrics";
import { excursionsOf, figuresOf, GROUPINGS, histogramOf, laddersOf, standingApart, stopLadder, type Grouping } from "#core/reading";
import { formulasOf, runPage } from "#server/run-page";
import { sectorsOf } from "#server/sectors";
import { useAddress } from "~/design/use-address";
import { ColumnsChart } from "~/charts/columns-chart";
import { ScatterChart } from "~/charts/scatter-chart";
import { Field, Select } from "~/design/field";
import { decimal, signed } from "~/design/format";
import { OrderedChoice, useChoice } from "~/design/ordered-choice";
import { Panel } from "~/design/panel";
import { useLater } from "~/design/use-later";
import { FactsTable } from "~/runs/facts-table";
import { GROUPING_WORDS } from "~/runs/grouping-words";
import { PartsAhead, PartWaits } from "~/runs/part-waits";
import { RunHead } from "~/runs/run-head";
import { StopLadder } from "~/runs/stop-ladder";
import { StreakPanel } from "~/runs/streak-panel";
import { FIRST_COLUMNS, TRADE_COLUMNS } from "~/runs/trade-columns";
import { TradeFocus } from "~/runs/trade-focus";
import { TradeTable } from "~/runs/trade-table";
import { UnfilledOrders } from "~/runs/unfilled-orders";
import { useRunPart } from "~/runs/use-part";
import type { Route } from "./+types/run-trades";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `Trades of ${page.summary.strategyName}, run ${page.summary.number} · Canyon` : "Run · Canyon" },
];
export const handle = {
  keys: [
    { keys: "↑ ↓", what: "walk through the trades; the chart follows" },
    { keys: "← → + −", what: "pan and zoom the chart that has the focus" },
  ],
};

export { unlessSearch as shouldRevalidate } from "~/shell/revalidate";

export async function loader({ context, params }: Route.LoaderArgs) {
  const { services } = context;
  const run = await runPage(services, Number(params.id));
  if (run === null) throw new Response("There is no such run.", { status: 404 });
  const { strategy } = run.version;
  return {
    summary: run.summary,
    layers: run.layers,
    dates: run.dates,
    timeframe: strategy.timeframe,
    formulas: formulasOf(strategy),
    choices: await services.preferences.choices(),
    sectors: await sectorsOf(services),
  };
}

const NO_TRADES: readonly Trade[] = [];
const AXES = ["furthest against, %", "furthest with it, %"] as const;
const NAMES = ["winners", "losers"] as const;
const COLUMNS = ["netProfit", "trades", "averageTrade", "averageBars", "expectancyR", "largestWin", "largestLoss"];
const FILTERS = ["side", "market", "reason", "result", "least", "most"] as const;

/** Which trades an address asks for. */
function chosen(trades: readonly Trade[], params: URLSearchParams): Trade[] {
  const [side, market, reason, result] = FILTERS.map((key) => params.get(key) ?? "all");
  const day = (key: string, missing: number) => (params.has(key) ? Date.parse(params.get(key)!) : missing);
  const [from, to] = [day("from", -Infinity), day("to", Infinity) + DAY];
  const bound = (key: string) => (params.has(key) && Number.isFinite(Number(params.get(key))) ? Number(params.get(key)) : null);
  const [least, most] = [bound("least"), bound("most")];
  return trades.filter(
    (trade) =>
      (side === "all" || trade.side === side) &&
      (market === "all" || trade.symbol === market) &&
      (reason === "all" || (trade.exitReason ?? "open") === reason) &&
      (result === "all" || (result === "won" ? trade.net > 0 : trade.net < 0)) &&
      (least === null || (trade.percent !== null && trade.percent >= least)) &&
      (most === null || (trade.percent !== null && trade.percent <= most)) &&
      entryMoment(trade) >= from &&
      entryMoment(trade) < to,
  );
}

export default function RunTradesPage({ loaderData }: Route.ComponentProps) {
  const { summary, layers, dates } = loaderData;
  const trades = useRunPart(summary, "trades");
  return (
    <>
      <PartsAhead run={summary} parts={["trades", "levels"]} />
      <RunHead summary={summary} layers={layers} dates={dates} />
      {trades.value === undefined ? (
        <Panel>
          <PartWaits parts={[trades]} what="the trades" height={400} />
        </Panel>
      ) : (
        <Trades {...loaderData} trades={trades.value} />
      )}
    </>
  );
}

/** The trades as a crowd: chosen by what one asks, walked one by one, how they are spread, how far they went, and what another stop would have done. */
function Trades({
  summary,
  trades,
  dates,
  timeframe,
  formulas,
  choices,
  sectors,
}: Route.ComponentProps["loaderData"] & { trades: readonly Trade[] }) {
  const { settings } = summary;
  const { params, set: write } = useAddress();
  const levels = useRunPart(summary, "levels");
  const orders = useRunPart(summary, "orders");
  const days = (Date.parse(dates[1]) - Date.parse(dates[0])) / DAY + 1;
  const set = useCallback((key: string, value: string) => write(key, value === "all" || value === "" ? null : value), [write]);
  const columns = useChoice(
    "tradeColumns",
    choices.tradeColumns,
    TRADE_COLUMNS.map(({ key }) => key),
    FIRST_COLUMNS,
  );
  const filter = FILTERS.map((key) => params.get(key) ?? "").join("|");
  const [from, to] = [params.get("from") ?? "", params.get("to") ?? ""];
  const shown = useMemo(
    () => chosen(trades, params),
    // the filters alone say which trades are shown
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [trades, filter, from, to],
  );
  const group = (GROUPINGS as readonly string[]).includes(params.get("group") ?? "") ? (params.get("group") as Grouping) : null;
  const groups = useMemo(() => {
    if (group === null) return null;
    const zones = new Map(settings.markets.map((market) => [market.symbol, market.session?.zone ?? "UTC"]));
    return {
      by: group,
      facts: { zoneOf: (symbol: string) => zones.get(symbol) ?? "UTC", sectorOf: (symbol: string) => sectors[symbol] ?? "other" },
    };
  }, [group, settings.markets, sectors]);
  const [symbols, reasons] = useMemo(
    () => [
      [...new Set(trades.map((trade) => trade.symbol))].sort(),
      [...new Set(trades.map((trade) => trade.exitReason ?? "open"))].sort(),
    ],
    [trades],
  );
  // the table answers first; what is computed of all trades together follows
  const later = useLater(shown);
  const ticks = useMemo(() => Object.fromEntries(settings.markets.map((market) => [market.symbol, market.tick])), [settings.markets]);
  const pick = useCallback((id: number) => set("trade", String(id)), [set]);
  const any = { value: "all", label: "all" };
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
      <Panel>
        <div className="flex flex-wrap items-end gap-3">
          <Select
            className="w-24"
            label="Side"
            value={params.get("side") ?? "all"}
            choices={[any, { value: "long", label: "long" }, { value: "short", label: "short" }]}
            onChange={(value) => set("side", value)}
          />
          {symbols.length > 1 && (
            <Select
              className="w-32"
              label="Market"
              value={params.get("market") ?? "all"}
              choices={[any, ...symbols.map((value) => ({ value, label: value }))]}
              onChange={(value) => set("market", value)}
            />
          )}
          <Select
            className="w-32"
            label="Left by"
            value={params.get("reason") ?? "all"}
            choices={[any, ...reasons.map((value) => ({ value, label: value }))]}
            onChange={(value) => set("reason", value)}
          />
          <Select
            className="w-24"
            label="Result"
            value={params.get("result") ?? "all"}
            choices={[any, { value: "won", label: "won" }, { value: "lost", label: "lost" }]}
            onChange={(value) => set("result", value)}
          />
          <Field
            className="w-20"
            label="% from"
            inputMode="decimal"
            value={params.get("least") ?? ""}
            onChange={(event) => set("least", event.target.value)}
          />
          <Field
            className="w-20"
            label="% to"
            inputMode="decimal"
            value={params.get("most") ?? ""}
            onChange={(event) => set("most", event.target.value)}
          />
          <Field type="date" label="Entered from" value={from} onChange={(event) => set("from", event.target.value)} />
          <Field type="date" label="to" value={to} onChange={(event) => set("to", event.target.value)} />
          <p className="pb-1 text-ink-soft" data-shown={shown.length}>
            {decimal(shown.length, 0)} of {decimal(trades.length, 0)} trades
          </p>
        </div>
      </Panel>
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3 min-[1900px]:grid-cols-2">
        <TradeFocus run={summary} trades={later ?? NO_TRADES} timeframe={timeframe} formulas={formulas} height={260} />
        <Panel
          flush
          title="Those shown"
          aside={
            <span className="flex items-center gap-3">
              <Select
                label="Put together by"
                hideLabel
                className="w-52"
                value={group ?? "all"}
                choices={[
                  { value: "all", label: "not put together" },
                  ...GROUPINGS.map((value) => ({ value, label: `by ${GROUPING_WORDS[value]}` })),
                ]}
                onChange={(value) => set("group", value)}
              />
              <OrderedChoice
                title="Columns of trades"
                about="They stand in this order wherever trades are listed."
                items={TRADE_COLUMNS}
                chosen={columns.chosen}
                onChoose={columns.choose}
                label="columns"
              />
            </span>
          }
        >
          <TradeTable
            trades={shown}
            columns={columns.chosen}
            groups={groups}
            ticks={ticks}
            selected={params.has("trade") ? Number(params.get("trade")) : null}
            onSelect={(id) => set("trade", String(id))}
            sort={params.get("sort") ?? "id"}
            onSort={(next) => set("sort", next === "id" ? "" : next)}
            height={240}
            fileName={`run-${summary.id}-trades-shown`}
          />
        </Panel>
      </div>
      {later !== null && (
        <>
          <WinnersLosers shown={later} capital={settings.capital} days={days} run={summary.id} />
          <Spread shown={later} summary={summary} levels={levels.value ?? null} onPick={pick} />
          <StreakPanel trades={later} run={summary.id} />
        </>
      )}
      {orders.value !== undefined && <UnfilledOrders orders={orders.value} ticks={ticks} run={summary.id} />}
    </div>
  );
}

const WinnersLosers = memo(function WinnersLosers({
  shown,
  capital,
  days,
  run,
}: {
  shown: readonly Trade[];
  capital: number;
  days: number;
  run: number;
}) {
  const rows = useMemo(() => {
    const part = (keep: (trade: Trade) => boolean) => figuresOf(shown.filter(keep), capital, days);
    return [
      { key: "all", name: "those shown", strong: true, figures: part(() => true) },
      { key: "won", name: "winners", figures: part((trade) => !trade.open && trade.net > 0) },
      { key: "lost", name: "losers", figures: part((trade) => !trade.open && trade.net < 0) },
    ];
  }, [shown, capital, days]);
  return (
    <Panel flush title="Winners against losers">
      <FactsTable fileName={`run-${run}-winners-losers`} label="Winners against losers" first="trades" columns={COLUMNS} rows={rows} />
    </Panel>
  );
});

interface SpreadProps {
  shown: readonly Trade[];
  summary: Route.ComponentProps["loaderData"]["summary"];
  levels: TradeLevels | null;
  onPick: (id: number) => void;
}

/** How far trades went and how their results are spread. */
const Spread = memo(function Spread({ shown, summary, levels, onPick }: SpreadProps) {
  const { markets } = summary.settings;
  const worth = useMemo(() => new Map(markets.map((market) => [market.symbol, market.pointValue])), [markets]);
  const points = useMemo(() => excursionsOf(shown, (symbol) => worth.get(symbol) ?? 1), [shown, worth]);
  const dots = useMemo(
    () => points.map(({ id, against, with: best, result }) => ({ id, x: against, y: best, bad: result <= 0 })),
    [points],
  );
  const bins = useMemo(() => histogramOf(points.map(({ result }) => result)), [points]);
  const marked = useMemo(() => {
    const { good, bad } = standingApart(shown);
    const apart = new Set([...good, ...bad]);
    const results = points.filter(({ id }) => apart.has(id)).map(({ result }) => result);
    return new Set(bins.flatMap((bin, i) => (results.some((x) => x >= bin.from && x <= bin.to) ? [i] : [])));
  }, [shown, points, bins]);
  const ladder = useMemo(() => stopLadder(points, laddersOf(points)), [points]);
  const drawn = useMemo(() => levelLines(shown, levels), [shown, levels]);
  if (points.length === 0)
    return (
      <Panel>
        <p className="text-ink-soft">No closed trade is among those shown.</p>
      </Panel>
    );
  return (
    <>
      <div className="grid grid-cols-2 gap-3">
        <Panel title="How far they went" note="a click shows the trade on the prices">
          <ScatterChart
            label="Furthest against the trade and furthest with it"
            dots={dots}
            axes={AXES}
            names={NAMES}
            levels={drawn}
            fileName={`run-${summary.id}-excursions`}
            onPick={onPick}
          />
        </Panel>
        <Panel
          title="How they are spread"
          note={`results in percent; no bin reaches across zero${marked.size > 0 ? "; outlined: bins with trades that stand apart" : ""}`}
        >
          <ColumnsChart
            label="Trades by result in percent"
            names={bins.map((bin) => signed((bin.from + bin.to) / 2, 1))}
            values={bins.map((bin) => bin.count)}
            marked={marked}
            height={320}
            fileName={`run-${summary.id}-spread`}
          />
        </Panel>
      </div>
      {ladder.length > 0 && <StopLadder ladder={ladder} total={points.reduce((sum, point) => sum + point.result, 0)} run={summary.id} />}
    </>
  );
});

/** The stop and the target that the trades had, in percent of their entries: one line each, at the median where they differ. */
function levelLines(trades: readonly Trade[], levels: TradeLevels | null) {
  if (levels === null) return [];
  const lines = [
    { axis: "x" as const, column: levels.stop, name: "stop" },
    { axis: "y" as const, column: levels.target, name: "target" },
  ];
  return lines.flatMap(({ axis, column, name }) => {
    const distances = trades
      .map(({ id, entryPrice }) => (100 * Math.abs(column[id - 1] - entryPrice)) / Math.abs(entryPrice))
      .filter((x) => Number.isFinite(x));
    if (distances.length === 0) return [];
    const at = median(distances);
    const same = distances.every((x) => Math.abs(x - at) < 0.01 * at);
    return [{ axis, at, name: `${same ? name : `median ${name}`} ${decimal(at, 2)} %` }];
  });
}
