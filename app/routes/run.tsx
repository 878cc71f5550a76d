import { useMemo, useState } from "react";
import { useFetcher } from "react-router";
import { METRIC_KEYS, METRICS } from "#core/metrics";
import { heldFrom } from "#core/reading";
import { settingsState } from "#server/markets";
import { formulasOf, runPage } from "#server/run-page";
import { useAddress } from "~/design/use-address";
import type { Curve } from "~/charts/equity-chart";
import { Button } from "~/design/button";
import { decimal, metricLabel } from "~/design/format";
import { MetricTable } from "~/design/metric-table";
import { OrderedChoice, useChoice } from "~/design/ordered-choice";
import { Panel } from "~/design/panel";
import { useBars } from "~/markets/use-bars";
import { useDerived } from "~/markets/use-derived";
import { CalendarPanel } from "~/runs/calendar-panel";
import { EquityPanel } from "~/runs/equity-panel";
import { EventList } from "~/runs/event-list";
import { HowComputed } from "~/runs/how-computed";
import { PartsAhead, PartWaits } from "~/runs/part-waits";
import { Recomputed } from "~/runs/recomputed";
import { KEY_METRICS } from "~/runs/report-keys";
import { RunHead } from "~/runs/run-head";
import { FIRST_COLUMNS, TRADE_COLUMNS } from "~/runs/trade-columns";
import { TradeFocus } from "~/runs/trade-focus";
import { TradeTable } from "~/runs/trade-table";
import { useRunPart } from "~/runs/use-part";
import type { Route } from "./+types/run";

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
  const { strategy } = run.version;
  const { tables, halted, metrics } = run.result.head;
  return {
    summary: run.summary,
    timeframe: strategy.timeframe,
    formulas: formulasOf(strategy),
    tables,
    halted,
    metrics,
    state: await settingsState(services.markets, run.summary.settings.markets),
    layers: run.layers,
    dates: run.dates,
    choices: await services.preferences.choices(),
  };
}

export async function action({ context, params }: Route.ActionArgs) {
  const outcome = await context.services.runs.recompute(Number(params.id));
  if (outcome === null) throw new Response("There is no such run.", { status: 404 });
  return outcome;
}

const FIGURES = METRIC_KEYS.map((key) => ({ key, name: metricLabel(key, "money") }));

export default function RunPage({ loaderData }: Route.ComponentProps) {
  const { summary, timeframe, formulas, tables, halted, metrics, state, layers, dates, choices } = loaderData;
  const fetcher = useFetcher<typeof action>();
  const { params, set: write } = useAddress();
  const { settings } = summary;
  const currency = settings.currency ?? "";
  const parts = { curves: useRunPart(summary, "curves"), trades: useRunPart(summary, "trades"), events: useRunPart(summary, "events") };
  const [curves, trades] = [parts.curves.value, parts.trades.value];
  const figures = useChoice("reportFigures", choices.reportFigures, METRIC_KEYS, KEY_METRICS);
  const columns = useChoice(
    "tradeColumns",
    choices.tradeColumns,
    TRADE_COLUMNS.map(({ key }) => key),
    FIRST_COLUMNS,
  );
  const others = METRIC_KEYS.filter((key) => !figures.chosen.includes(key));
  const [unfolded, setUnfolded] = useState(false);
  const selected = params.has("trade") ? Number(params.get("trade")) : null;
  const focused = selected !== null || params.has("event");
  const held = settings.markets.find((market) => market.symbol === settings.benchmark) ?? null;
  const derived = useDerived(
    held === null ? null : { bars: held.bars, timeframe: held.timeframe, session: held.session ?? null },
    timeframe,
  );
  const { bars } = useBars(held === null ? null : (derived.bars?.hash ?? null));
  const set = (key: string, value: string | null, without?: string) => write(key, value, without === undefined ? [] : [without]);
  const benchmark = useMemo<Curve | null>(
    () =>
      held === null || bars === null || curves === undefined
        ? null
        : { name: `holding ${held.symbol}`, values: heldFrom(bars, curves.time, settings.capital), role: "benchmark" },
    [held, bars, curves, settings.capital],
  );
  const outcome = fetcher.data;
  return (
    <>
      <PartsAhead run={summary} parts={["curves", "trades", "events"]} />
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
      {halted && (
        <p className="mb-3 border-l-4 border-clay px-3 py-1">
          The account was halted: nothing was left of it, and every position was closed.
        </p>
      )}
      <div className="grid grid-cols-[minmax(380px,410px)_1fr] items-start gap-3">
        <Panel
          title="Figures"
          aside={
            <OrderedChoice
              title="Figures that come first"
              about="They stand first on every run's report, in this order. All others stay below."
              items={FIGURES}
              chosen={figures.chosen}
              onChoose={figures.choose}
              label="choose"
            />
          }
        >
          <MetricTable keys={figures.chosen} metrics={metrics} currency={currency} />
          <details className="mt-1" onToggle={(event) => setUnfolded(event.currentTarget.open)}>
            <summary className="text-sm text-ink-soft hover:text-ink">all {Object.keys(METRICS).length} figures</summary>
            {unfolded && <MetricTable keys={others} metrics={metrics} currency={currency} />}
          </details>
        </Panel>
        {curves === undefined || trades === undefined ? (
          <Panel title="Equity">
            <PartWaits parts={[parts.curves, parts.trades]} what="the curve" height={380} />
          </Panel>
        ) : (
          <EquityPanel
            curves={curves}
            name={`version ${summary.versionNumber}`}
            benchmark={benchmark}
            trades={trades}
            capital={settings.capital}
            currency={currency}
            fileName={`run-${summary.id}-equity`}
          />
        )}
      </div>
      <div className="mt-3 grid grid-cols-[minmax(0,1fr)] gap-3">
        {trades === undefined ? (
          <Panel title="Trades">
            <PartWaits parts={[parts.trades]} what="the trades" />
          </Panel>
        ) : (
          <>
            {focused && (
              <TradeFocus
                run={summary}
                trades={trades}
                timeframe={timeframe}
                formulas={formulas}
                onClose={() => set("trade", null, "event")}
              />
            )}
            <Panel flush title="Trades" note={`${decimal(trades.length, 0)}; a click shows one on the prices`}>
              <TradeTable
                trades={trades}
                columns={columns.chosen}
                ticks={Object.fromEntries(settings.markets.map((m) => [m.symbol, m.tick]))}
                selected={selected}
                onSelect={(id) => set("trade", String(id), "event")}
                sort={params.get("sort") ?? "id"}
                onSort={(next) => set("sort", next === "id" ? null : next)}
                height={280}
                fileName={`run-${summary.id}-trades`}
              />
            </Panel>
            <CalendarPanel tables={tables} trades={trades} fileName={`run-${summary.id}-calendar`} />
          </>
        )}
        {parts.events.value !== undefined && (
          <EventList
            events={parts.events.value}
            kind={params.get("kind")}
            onKind={(kind) => set("kind", kind)}
            selected={params.has("event") ? Number(params.get("event")) : null}
            onSelect={(index) => set("event", String(index), "trade")}
          />
        )}
        <HowComputed summary={summary} all={metrics.all} />
      </div>
    </>
  );
}
