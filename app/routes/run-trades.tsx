import { useCallback, useMemo } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { DAY } from "#core/bars";
import type { Trade } from "#core/documents";
import { excursionsOf, figuresOf, histogramOf, laddersOf, stopLadder } from "#core/reading";
import { runPage } from "#server/run-page";
import { ColumnsChart } from "~/charts/columns-chart";
import { ScatterChart } from "~/charts/scatter-chart";
import { Field, Select } from "~/design/field";
import { decimal, signed } from "~/design/format";
import { Panel } from "~/design/panel";
import { FactsTable } from "~/runs/facts-table";
import { RunHead } from "~/runs/run-head";
import { TradeTable } from "~/runs/trade-table";
import type { Route } from "./+types/run-trades";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `Trades of ${page.summary.strategyName}, run ${page.summary.number} · Canyon` : "Run · Canyon" },
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
    trades: run.result.trades,
  };
}

const AXES = ["furthest against, %", "furthest with it, %"] as const;
const NAMES = ["winners", "losers"] as const;
const COLUMNS = ["netProfit", "trades", "averageTrade", "averageBars", "expectancyR", "largestWin", "largestLoss"];
const FILTERS = ["side", "market", "reason", "result"] as const;

/** Which trades an address asks for. */
function chosen(trades: readonly Trade[], params: URLSearchParams): Trade[] {
  const [side, market, reason, result] = FILTERS.map((key) => params.get(key) ?? "all");
  const [from, to] = [params.get("from") ?? "", params.get("to") ?? ""];
  return trades.filter(
    (trade) =>
      (side === "all" || trade.side === side) &&
      (market === "all" || trade.symbol === market) &&
      (reason === "all" || (trade.exitReason ?? "open") === reason) &&
      (result === "all" || (result === "won" ? trade.net > 0 : trade.net < 0)) &&
      (from === "" || trade.entryTime.slice(0, 10) >= from) &&
      (to === "" || trade.entryTime.slice(0, 10) <= to),
  );
}

/** The trades as a crowd: chosen by what one asks, how they are spread, how far they went, and what another stop would have done. */
export default function RunTradesPage({ loaderData: { summary, layers, trades, dates } }: Route.ComponentProps) {
  const { settings } = summary;
  const [params, setParams] = useSearchParams();
  const navigate = useNavigate();
  const days = (Date.parse(dates[1]) - Date.parse(dates[0])) / DAY + 1;
  const set = (key: string, value: string) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        if (value === "all" || value === "") next.delete(key);
        else next.set(key, value);
        return next;
      },
      { replace: true, preventScrollReset: true },
    );
  const filter = FILTERS.map((key) => params.get(key) ?? "").join();
  const [from, to] = [params.get("from") ?? "", params.get("to") ?? ""];
  const shown = useMemo(
    () => chosen(trades, params),
    // the filters alone say which trades are shown
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [trades, filter, from, to],
  );
  const worth = useMemo(() => new Map(settings.markets.map((market) => [market.symbol, market.pointValue])), [settings.markets]);
  const points = useMemo(() => excursionsOf(shown, (symbol) => worth.get(symbol) ?? 1), [shown, worth]);
  const dots = useMemo(
    () => points.map(({ id, against, with: best, result }) => ({ id, x: against, y: best, bad: result <= 0 })),
    [points],
  );
  const bins = useMemo(() => histogramOf(points.map(({ result }) => result)), [points]);
  const ladder = useMemo(() => stopLadder(points, laddersOf(points)), [points]);
  const total = points.reduce((sum, point) => sum + point.result, 0);
  const pick = useCallback((id: number) => void navigate(`/runs/${summary.id}?trade=${id}`), [navigate, summary.id]);
  const [symbols, reasons] = useMemo(
    () => [
      [...new Set(trades.map((trade) => trade.symbol))].sort(),
      [...new Set(trades.map((trade) => trade.exitReason ?? "open"))].sort(),
    ],
    [trades],
  );
  const part = (keep: (trade: Trade) => boolean) => figuresOf(shown.filter(keep), settings.capital, days);
  const any = { value: "all", label: "all" };
  return (
    <>
      <RunHead summary={summary} layers={layers} dates={dates} />
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
        <Panel>
          <div className="flex flex-wrap items-end gap-3">
            <Select
              className="w-28"
              label="Side"
              value={params.get("side") ?? "all"}
              choices={[any, { value: "long", label: "long" }, { value: "short", label: "short" }]}
              onChange={(value) => set("side", value)}
            />
            {symbols.length > 1 && (
              <Select
                className="w-36"
                label="Market"
                value={params.get("market") ?? "all"}
                choices={[any, ...symbols.map((value) => ({ value, label: value }))]}
                onChange={(value) => set("market", value)}
              />
            )}
            <Select
              className="w-40"
              label="Left by"
              value={params.get("reason") ?? "all"}
              choices={[any, ...reasons.map((value) => ({ value, label: value }))]}
              onChange={(value) => set("reason", value)}
            />
            <Select
              className="w-32"
              label="Result"
              value={params.get("result") ?? "all"}
              choices={[any, { value: "won", label: "won" }, { value: "lost", label: "lost" }]}
              onChange={(value) => set("result", value)}
            />
            <Field type="date" label="Entered from" value={from} onChange={(event) => set("from", event.target.value)} />
            <Field type="date" label="to" value={to} onChange={(event) => set("to", event.target.value)} />
            <p className="pb-1 text-ink-soft" data-shown={shown.length}>
              {decimal(shown.length, 0)} of {decimal(trades.length, 0)} trades
            </p>
          </div>
        </Panel>
        <Panel flush title="Winners against losers">
          <FactsTable
            fileName={`run-${summary.id}-winners-losers`}
            label="Winners against losers"
            first="trades"
            columns={COLUMNS}
            rows={[
              { key: "all", name: "those shown", strong: true, figures: part(() => true) },
              { key: "won", name: "winners", figures: part((trade) => !trade.open && trade.net > 0) },
              { key: "lost", name: "losers", figures: part((trade) => !trade.open && trade.net < 0) },
            ]}
          />
        </Panel>
        {points.length === 0 ? (
          <Panel>
            <p className="text-ink-soft">No closed trade is among those shown.</p>
          </Panel>
        ) : (
          <>
            <div className="grid grid-cols-2 gap-3">
              <Panel title="How far they went" note="a click leads to the trade on the prices">
                <ScatterChart
                  label="Furthest against the trade and furthest with it"
                  dots={dots}
                  axes={AXES}
                  names={NAMES}
                  fileName={`run-${summary.id}-excursions`}
                  onPick={pick}
                />
              </Panel>
              <Panel title="How they are spread" note="results in percent; bins by Freedman and Diaconis, none of them across zero">
                <ColumnsChart
                  label="Trades by result in percent"
                  names={bins.map((bin) => signed((bin.from + bin.to) / 2, 1))}
                  values={bins.map((bin) => bin.count)}
                  height={320}
                  fileName={`run-${summary.id}-spread`}
                />
              </Panel>
            </div>
            {ladder.length > 0 && (
              <Panel
                flush
                title="With a stop at another distance"
                note="a look and not a backtest: without gaps, costs of the exit, and the trades that would have come instead"
              >
                <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="With a stop at another distance">
                  <table className="w-full border-collapse">
                    <thead className="text-sm text-ink-soft">
                      <tr>
                        {["stop at, %", "trades stopped", "saved, %", "cost, %", "sum of the results, %"].map((head) => (
                          <th key={head} scope="col" className="px-3.5 py-1 text-right font-normal">
                            {head}
                          </th>
                        ))}
                      </tr>
                    </thead>
                    <tbody>
                      <tr className="bg-shade font-semibold">
                        <th scope="row" className="px-3.5 py-0.5 text-right">
                          as it was
                        </th>
                        <td />
                        <td />
                        <td />
                        <td className="figure-text px-3.5 text-right">{signed(total, 1)}</td>
                      </tr>
                      {ladder.map((level) => (
                        <tr key={level.distance} className="border-t border-edge/60">
                          <th scope="row" className="figure-text px-3.5 py-0.5 text-right font-normal">
                            {decimal(level.distance, 2)}
                          </th>
                          <td className="figure-text px-3.5 text-right">{decimal(level.stopped, 0)}</td>
                          <td className="figure-text px-3.5 text-right">{decimal(level.saved, 1)}</td>
                          <td className="figure-text px-3.5 text-right">{decimal(level.cost, 1)}</td>
                          <td className="figure-text px-3.5 text-right">{signed(level.total, 1)}</td>
                        </tr>
                      ))}
                    </tbody>
                  </table>
                </div>
              </Panel>
            )}
          </>
        )}
        <Panel flush title="Those shown" note="a click leads to the trade on the prices">
          <TradeTable
            trades={shown}
            ticks={Object.fromEntries(settings.markets.map((market) => [market.symbol, market.tick]))}
            selected={null}
            onSelect={pick}
            sort={params.get("sort") ?? "id"}
            onSort={(next) => set("sort", next === "id" ? "" : next)}
            height={360}
            fileName={`run-${summary.id}-trades-shown`}
          />
        </Panel>
      </div>
    </>
  );
}
