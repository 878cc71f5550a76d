import { useMemo, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { ALONG_CHARTS, alongView, type AlongChart } from "#server/along";
import { lineOf } from "#server/lines";
import { runPage } from "#server/run-page";
import { LinesChart } from "~/charts/lines-chart";
import { lineFrom } from "~/charts/sent-line";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { dateText, decimal, signed, signedMoney } from "~/design/format";
import { Panel } from "~/design/panel";
import { PlainTable } from "~/design/plain-table";
import { FormulaChart } from "~/runs/formula-chart";
import { ALONG_WORDS, alongTick } from "~/runs/along-words";
import { RunHead } from "~/runs/run-head";
import type { Route } from "./+types/run-along";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `Along the way, ${page.summary.strategyName}, run ${page.summary.number} · Canyon` : "Run · Canyon" },
];

const SOLE: readonly AlongChart[] = ["exposure", "positions", "margin", "units", "costs"];
const FIRST = "exposure,positions";

/** Charts that an address asks for, in the order of the list. */
const asked = (params: URLSearchParams): AlongChart[] => {
  const keys = (params.get("show") ?? FIRST).split(",");
  return ALONG_CHARTS.filter((chart) => keys.includes(chart));
};

export async function loader({ context, params, request }: Route.LoaderArgs) {
  const { services } = context;
  const run = await runPage(services, Number(params.id));
  if (run === null) throw new Response("There is no such run.", { status: 404 });
  const query = new URL(request.url).searchParams;
  const [view, { time, equity }] = await Promise.all([
    alongView(services, run, asked(query), query.get("units") ?? ""),
    run.result.curves(),
  ]);
  return {
    summary: run.summary,
    layers: run.layers,
    dates: run.dates,
    timeframe: run.version.strategy.timeframe,
    equity: lineOf("equity", time, equity),
    ...view,
  };
}

/** What a run held, risked and paid at every close, and any formula beside it; what its falls were made of. */
export default function RunAlongPage({ loaderData }: Route.ComponentProps) {
  const { summary, layers, dates, timeframe, equity, charts, falls, largest, byMarket } = loaderData;
  const { settings } = summary;
  const [params, setParams] = useSearchParams();
  const shown = asked(params);
  const several = settings.markets.length > 1;
  const offered = ALONG_CHARTS.filter((chart) => several || SOLE.includes(chart));
  const change = (key: string, value: string | string[]) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        next.delete(key);
        for (const one of [value].flat()) if (one !== "") next.append(key, one);
        return next;
      },
      { replace: true, preventScrollReset: true },
    );
  const curve = useMemo(() => [lineFrom(equity)], [equity]);
  const drawn = useMemo(() => charts.map(({ chart, lines }) => ({ chart, lines: lines.map((line) => lineFrom(line)) })), [charts]);
  const symbol = settings.markets.find((market) => market.symbol === params.get("market"))?.symbol ?? settings.markets[0].symbol;
  const formulas = params.getAll("formula");
  const span: [number, number] = [equity.time[0], equity.time[equity.time.length - 1]];
  return (
    <>
      <RunHead summary={summary} layers={layers} dates={dates} />
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
        <Panel>
          <div className="flex flex-wrap items-center gap-1.5" role="group" aria-label="Charts that are shown">
            {offered.map((chart) => {
              const on = shown.includes(chart);
              return (
                <button
                  key={chart}
                  type="button"
                  aria-pressed={on}
                  title={ALONG_WORDS[chart].note}
                  onClick={() =>
                    change("show", ALONG_CHARTS.filter((one) => (one === chart ? !on : shown.includes(one))).join(",") || "none")
                  }
                  className={`rounded-[4px] border px-2 py-0.5 text-sm ${on ? "border-ink bg-shade" : "border-edge hover:border-ink-faint"}`}
                >
                  {ALONG_WORDS[chart].name}
                </button>
              );
            })}
          </div>
          <FormulaEntry
            symbols={settings.markets.map((market) => market.symbol)}
            symbol={symbol}
            onSymbol={(value) => change("market", value)}
            onAdd={(rule) => change("formula", [...formulas.filter((one) => one !== rule), rule])}
          />
        </Panel>
        <Panel title="Equity">
          <LinesChart label="Equity" lines={curve} height={150} fileName={`run-${summary.id}-equity-along`} />
        </Panel>
        {drawn.map(({ chart, lines }) => (
          <Panel
            key={chart}
            title={ALONG_WORDS[chart].name}
            note={ALONG_WORDS[chart].note}
            aside={
              chart === "units" &&
              several && (
                <Select
                  label="Units of"
                  hideLabel
                  className="w-32"
                  value={params.get("units") ?? settings.markets[0].symbol}
                  choices={settings.markets.map((market) => ({ value: market.symbol, label: market.symbol }))}
                  onChange={(value) => change("units", value)}
                />
              )
            }
          >
            {lines.length === 0 ? (
              <p className="text-ink-soft">
                This run has too many markets and bars to keep each market's values; the charts of the whole account are there.
              </p>
            ) : (
              <LinesChart
                label={ALONG_WORDS[chart].name}
                lines={lines}
                height={180}
                fileName={`run-${summary.id}-${chart}`}
                tick={alongTick(chart)}
              />
            )}
          </Panel>
        ))}
        {formulas.map((rule) => (
          <FormulaChart
            key={rule}
            settings={settings}
            symbol={symbol}
            timeframe={timeframe}
            rule={rule}
            span={span}
            fileName={`run-${summary.id}-formula`}
            onRemove={() => change("formula", formulas.filter((one) => one !== rule))} // prettier-ignore
          />
        ))}
        {byMarket && falls.length > 0 && several && (
          <Panel flush title="What the falls were made of" note="change of each market's profit from the peak to the lowest point, money">
            <Falls falls={falls} run={summary.id} />
          </Panel>
        )}
        {largest.length > 0 && (
          <Panel flush title="The largest positions" note="for each market the close at which it was the largest share of the equity">
            <PlainTable
              label="The largest positions"
              fileName={`run-${summary.id}-largest-positions`}
              heads={["market", "on", "side", "share of the equity, %", "trade"]}
              words={3}
              maxHeight={300}
              rows={largest.map(({ symbol: market, time, share, trade }) => ({
                key: market,
                cells: [
                  market,
                  dateText(time),
                  share > 0 ? "long" : "short",
                  decimal(100 * Math.abs(share), 1),
                  trade === null ? (
                    "–"
                  ) : (
                    <Link key="trade" className="quiet-link" to={`/runs/${summary.id}/trades?trade=${trade}`}>
                      trade {trade}
                    </Link>
                  ),
                ],
                file: [market, dateText(time), share > 0 ? "long" : "short", 100 * Math.abs(share), trade],
              }))}
            />
          </Panel>
        )}
      </div>
    </>
  );
}

/** A place to write a formula that becomes a chart. */
function FormulaEntry({
  symbols,
  symbol,
  onSymbol,
  onAdd,
}: {
  symbols: readonly string[];
  symbol: string;
  onSymbol: (symbol: string) => void;
  onAdd: (rule: string) => void;
}) {
  const [text, setText] = useState("");
  return (
    <form
      className="mt-2 flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim() === "") return;
        onAdd(text.trim());
        setText("");
      }}
    >
      <Field
        className="w-96"
        label="A chart of any formula"
        placeholder="atr(14) / close"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      {symbols.length > 1 && (
        <Select
          className="w-32"
          label="on"
          value={symbol}
          choices={symbols.map((value) => ({ value, label: value }))}
          onChange={onSymbol}
        />
      )}
      <Button type="submit" disabled={text.trim() === ""}>
        Add
      </Button>
    </form>
  );
}

const FOREMOST = 3;

/** Each fall with the markets and the sectors that lost most in it. */
function Falls({ falls, run }: { falls: Route.ComponentProps["loaderData"]["falls"]; run: number }) {
  const parts = (list: readonly { name: string; profit: number }[]) =>
    list
      .slice(0, FOREMOST)
      .filter(({ profit }) => profit < 0)
      .map(({ name, profit }) => `${name} ${signedMoney(profit)}`)
      .join(", ");
  return (
    <PlainTable
      label="What the falls were made of"
      fileName={`run-${run}-falls-by-market`}
      heads={["peak", "lowest", "%", "money", "lost most", "gained most", "sectors that lost most"]}
      words={7}
      rows={falls.map(({ fall, deepest, longest, markets, sectors }) => {
        const gained = [...markets].reverse().find(({ profit }) => profit > 0);
        const mark = [deepest ? "the deepest" : "", longest ? "the longest" : ""].filter((x) => x !== "").join(", ");
        return {
          key: fall.start,
          cells: [
            `${dateText(fall.start)}${mark === "" ? "" : ` (${mark})`}`,
            dateText(fall.low),
            signed(-fall.percent, 1),
            signedMoney(-fall.money),
            parts(markets),
            gained === undefined ? "none" : `${gained.name} ${signedMoney(gained.profit)}`,
            parts(sectors),
          ],
          file: [
            dateText(fall.start),
            dateText(fall.low),
            -fall.percent,
            -fall.money,
            markets.map(({ name, profit }) => `${name} ${profit}`).join("; "),
            gained === undefined ? "" : `${gained.name} ${gained.profit}`,
            sectors.map(({ name, profit }) => `${name} ${profit}`).join("; "),
          ],
        };
      })}
    />
  );
}
