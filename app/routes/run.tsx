import { useMemo } from "react";
import { Link, useFetcher, useSearchParams } from "react-router";
import { firstAtOrAfter } from "#core/bars";
import { METRICS } from "#core/metrics";
import { settingsState } from "#server/markets";
import { runPage } from "#server/run-page";
import type { Curve } from "~/charts/equity-chart";
import { PriceChart } from "~/charts/price-chart";
import { Button } from "~/design/button";
import { decimal, metricText, momentText } from "~/design/format";
import { MetricTable } from "~/design/metric-table";
import { Panel } from "~/design/panel";
import { useDerived } from "~/markets/use-derived";
import { useBars } from "~/markets/use-bars";
import { EquityPanel } from "~/runs/equity-panel";
import { EventList, EVENTS } from "~/runs/event-list";
import { KEY_METRICS, OTHER_METRICS } from "~/runs/report-keys";
import { RunHead } from "~/runs/run-head";
import { spansOf, viewAround } from "~/runs/spans";
import { TradeTable } from "~/runs/trade-table";
import { YearTable } from "~/runs/year-table";
import type { Route } from "./+types/run";
import { heldCurve } from "~/runs/held";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `${page.summary.strategyName}, run ${page.summary.number} · Canyon` : "Run · Canyon" },
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
  const { orders: _orders, ...result } = run.result;
  return {
    summary: run.summary,
    timeframe: run.version.strategy.timeframe,
    result,
    state: await settingsState(services.markets, run.summary.settings),
    layers: run.layers,
    dates: run.dates,
  };
}

export async function action({ context, params }: Route.ActionArgs) {
  const outcome = await context.services.runs.recompute(Number(params.id));
  if (outcome === null) throw new Response("There is no such run.", { status: 404 });
  return outcome;
}

const INTRABAR = {
  pessimistic: "the stop first where a bar holds both",
  optimistic: "the target first where a bar holds both",
  path: "by the path of the bar where it holds both",
};

/** What computing the run again gave, and where it differs from what was stored. */
function Recomputed({ outcome }: { outcome: NonNullable<Route.ComponentProps["actionData"]> }) {
  const { same, engines, trades, firstTrade, finalEquity, metrics } = outcome;
  const version = engines[0] === engines[1] ? "" : ` The engine was version ${engines[0]} then and is ${engines[1]} now.`;
  if (same)
    return (
      <p role="status" className="mb-3 border-l-4 border-moss px-3 py-1">
        Computed again: the same result to the last bit.{version}
      </p>
    );
  return (
    <div role="status" className="mb-3 border-l-4 border-clay px-3 py-1">
      <p>
        Computed again: the result differs from what was stored.{version}{" "}
        {firstTrade === null ? "The trades are the same" : `Trades differ from number ${firstTrade} on`}
        {trades[0] === trades[1] ? "" : `, ${trades[0]} then, ${trades[1]} now`}; equity at the end {decimal(finalEquity[0], 2)} →{" "}
        {decimal(finalEquity[1], 2)}.
      </p>
      {metrics.length > 0 && (
        <ul className="list-disc pl-5 text-sm">
          {metrics.slice(0, 12).map(({ key, before, now }) => (
            <li key={key}>
              {METRICS[key]?.label ?? key}: {metricText(key, before)} → {metricText(key, now)}
            </li>
          ))}
          {metrics.length > 12 && <li>and {metrics.length - 12} figures more</li>}
        </ul>
      )}
    </div>
  );
}

export default function RunPage({ loaderData: { summary, timeframe, result, state, layers, dates } }: Route.ComponentProps) {
  const fetcher = useFetcher<typeof action>();
  const [params, setParams] = useSearchParams();
  const { settings } = summary;
  const currency = settings.currency ?? "";
  const selected = params.has("trade") ? Number(params.get("trade")) : null;
  const event = params.has("event") ? (result.events[Number(params.get("event"))] ?? null) : null;
  // the prices are those of the market that the chosen trade or event belongs to
  const symbol = event?.symbol ?? result.trades.find((trade) => trade.id === selected)?.symbol;
  const market = settings.markets.find((one) => one.symbol === symbol) ?? settings.markets[0];
  const derived = useDerived({ bars: market.bars, timeframe: market.timeframe, session: market.session ?? null }, timeframe);
  const { bars } = useBars(derived.bars?.hash ?? null);
  const sort = params.get("sort") ?? "id";
  const set = (key: string, value: string | null, without?: string) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        if (value === null) next.delete(key);
        else next.set(key, value);
        if (without !== undefined) next.delete(without);
        return next;
      },
      { replace: true, preventScrollReset: true },
    );
  const times = useMemo(() => Float64Array.from(result.equity.time, (text) => Date.parse(text)), [result.equity.time]);
  const curves = useMemo<Curve[]>(() => {
    const out: Curve[] = [{ name: `version ${summary.versionNumber}`, values: result.equity.equity, role: "main" }];
    if (bars !== null && settings.benchmark === market.symbol)
      out.push({ name: `holding ${market.symbol}`, values: heldCurve(bars, times, settings.capital), role: "benchmark" });
    return out;
  }, [result.equity.equity, bars, times, summary.versionNumber, market.symbol, settings.benchmark, settings.capital]);
  const spans = useMemo(
    () =>
      bars === null
        ? []
        : spansOf(
            result.trades.filter((trade) => trade.symbol === market.symbol),
            bars,
          ),
    [result.trades, bars, market.symbol],
  );
  const eventRow = event === null || bars === null ? null : firstAtOrAfter(bars.time, Date.parse(event.time));
  const view = useMemo((): [number, number] | undefined => {
    if (bars === null) return undefined;
    if (eventRow !== null) return [eventRow - 60, eventRow + 60];
    return selected === null
      ? undefined
      : viewAround(
          spans.find((span) => span.id === selected),
          bars,
        );
  }, [selected, spans, bars, eventRow]);
  const tints = useMemo(() => (eventRow === null ? [] : [{ fromRow: eventRow, toRow: eventRow, name: "", mark: true }]), [eventRow]);
  const outcome = fetcher.data;
  return (
    <>
      <RunHead
        summary={summary}
        layers={layers}
        dates={dates}
        actions={
          <>
            <fetcher.Form method="post">
              <Button type="submit" disabled={fetcher.state !== "idle"}>
                {fetcher.state !== "idle" ? "Computing …" : "Compute again"}
              </Button>
            </fetcher.Form>
            <Button asChild>
              <a href={`/runs/${summary.id}/file/result.json`}>Result file</a>
            </Button>
            <Button asChild>
              <a href={`/runs/${summary.id}/file/report.html`} title="One page with everything in it, for a colleague or for paper">
                Report file
              </a>
            </Button>
          </>
        }
      />
      {outcome && <Recomputed outcome={outcome} />}
      {state.gone.length > 0 && (
        <p className="mb-3 border-l-4 border-ochre px-3 py-1">
          {state.gone.join(", ")} was taken out of the markets since. The stored run stays as it was, and its bars are kept; new runs on{" "}
          {state.gone.length === 1 ? "it" : "them"} aren't possible.
        </p>
      )}
      {state.changed.length > 0 && (
        <p className="mb-3 border-l-4 border-ochre px-3 py-1">
          The bars of {state.changed.join(", ")} have changed since; this run rests on the earlier ones.
        </p>
      )}
      {result.halted && (
        <p className="mb-3 border-l-4 border-clay px-3 py-1">
          The account was halted: nothing was left of it, and every position was closed.
        </p>
      )}
      <div className="grid grid-cols-[minmax(380px,410px)_1fr] items-start gap-3">
        <Panel>
          <MetricTable keys={KEY_METRICS} metrics={result.metrics} currency={currency} />
          <details className="mt-1">
            <summary className="text-sm text-ink-soft hover:text-ink">all {KEY_METRICS.length + OTHER_METRICS.length} figures</summary>
            <MetricTable keys={OTHER_METRICS} metrics={result.metrics} currency={currency} />
          </details>
        </Panel>
        <EquityPanel
          times={times}
          curves={curves}
          balance={result.equity.balance}
          trades={result.trades}
          capital={settings.capital}
          currency={currency}
          fileName={`run-${summary.id}-equity`}
        />
      </div>
      <div className="mt-3 grid grid-cols-[minmax(0,1fr)] gap-3">
        {(selected !== null || event !== null) && bars !== null && (
          <Panel
            title={
              event !== null
                ? `${EVENTS[event.kind].name} on ${market.symbol}, ${event.time.slice(0, 16).replace("T", " ")}`
                : `Trade ${selected} on prices`
            }
            note={event?.detail}
            aside={
              <button type="button" className="quiet-link" onClick={() => set("trade", null, "event")}>
                close
              </button>
            }
          >
            <PriceChart
              symbol={market.symbol}
              bars={bars}
              tick={market.tick}
              trades={spans}
              selected={event === null ? selected : null}
              tints={tints}
              view={view}
              height={300}
            />
          </Panel>
        )}
        <Panel flush title="Trades" note={`${decimal(result.trades.length, 0)}; a click shows one on the prices`}>
          <TradeTable
            trades={result.trades}
            ticks={Object.fromEntries(settings.markets.map((m) => [m.symbol, m.tick]))}
            selected={selected}
            onSelect={(id) => set("trade", String(id), "event")}
            sort={sort}
            onSort={(next) => set("sort", next === "id" ? null : next)}
            height={280}
            fileName={`run-${summary.id}-trades`}
          />
        </Panel>
        <EventList
          events={result.events}
          kind={params.get("kind")}
          onKind={(kind) => set("kind", kind)}
          selected={params.has("event") ? Number(params.get("event")) : null}
          onSelect={(index) => set("event", String(index), "trade")}
        />
        <Panel title="Year by month, %" note="compounded; boxed: the best and the worst month">
          <YearTable tables={result.tables} />
        </Panel>
        <Panel title="How it was computed">
          <dl className="grid grid-cols-[auto_1fr_auto_1fr] gap-x-4 gap-y-1">
            {[
              ["stored", momentText(summary.createdAt)],
              [
                "run settings",
                summary.under === null ? (
                  "as they stood when it was stored"
                ) : (
                  <Link key="under" className="quiet-link" to={`/run-settings/${summary.under.id}`}>
                    {summary.under.name}, version {summary.under.number}
                  </Link>
                ),
              ],
              ["engine", summary.engine],
              ["fingerprint", summary.fingerprint],
              ["bars", settings.markets.map((m) => `${m.symbol} ${m.bars.slice(0, 12)}`).join(", ")],
              ["spread, slippage", `${settings.costs.spreadTicks}, ${settings.costs.slippageTicks} ticks`],
              ["commission", `${settings.costs.perUnit} per unit, ${settings.costs.perOrder} per order, ${settings.costs.percent} %`],
              [
                "fills",
                INTRABAR[settings.intrabar] + (settings.fineTimeframe === null ? "" : `, decided by ${settings.fineTimeframe} bars`),
              ],
              ["undecided bars", `${decimal(result.metrics.all.ambiguousBars, 0)} in which the mode had to decide`],
            ].map(([name, value]) => (
              <div key={String(name)} className="contents">
                <dt className="text-ink-soft">{name}</dt>
                <dd className={`min-w-0 break-all ${name === "fingerprint" ? "figure-text" : ""}`}>{value}</dd>
              </div>
            ))}
          </dl>
        </Panel>
      </div>
    </>
  );
}
