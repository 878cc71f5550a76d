import { useMemo, useState } from "react";
import type { Metrics } from "#core/documents";
import type { Bars } from "#core/bars";
import { METRICS } from "#core/metrics";
import type { MarketView } from "#server/markets";
import { EquityChart, type Curve } from "~/charts/equity-chart";
import { PriceChart } from "~/charts/price-chart";
import { decimal, metricText, signed } from "~/design/format";
import { MetricTable } from "~/design/metric-table";
import { Panel, Problems } from "~/design/panel";
import { saveFile } from "~/design/save";
import { Tip } from "~/design/tip";
import { useRunBars } from "~/markets/use-run-bars";
import { spansOf, viewAround } from "~/runs/spans";
import { TradeTable } from "~/runs/trade-table";
import type { LiveBacktest } from "~/runs/use-backtest";
import type { BacktestView } from "../../workers/protocol";
import { REPORT_KEYS } from "~/runs/report-keys";

const STRIP: [metric: string, label: (currency: string) => string][] = [
  ["netProfit", (currency) => `Net, ${currency}`],
  ["profitToDrawdown", () => "Profit ÷ drawdown"],
  ["profitFactor", () => "Profit factor"],
  ["maxDrawdownPercent", () => "Drawdown, %"],
  ["averageTrade", (currency) => `A trade, ${currency}`],
  ["trades", () => "Trades"],
];

/** How a figure changed against before; worse and better in words, since colour alone does not say it. */
function Change({ metric, now, before }: { metric: string; now: Metrics; before: Metrics | null }) {
  const [x, y] = [now[metric], before?.[metric]];
  if (x === null || x === undefined || y === null || y === undefined || x === y)
    return <span className="figure-text text-xs text-ink-soft">{before ? "same" : " "}</span>;
  const { better, unit } = METRICS[metric];
  const digits = unit === "money" || unit === "count" ? 0 : unit === "ratio" ? 2 : 1;
  const difference = (x - y) * (unit === "fraction" ? 100 : 1);
  const good = better === null ? null : better === "more" ? x > y : x < y;
  return (
    <span className={`figure-text text-[11px] whitespace-nowrap ${good === null ? "text-ink-soft" : good ? "text-river" : "text-clay"}`}>
      {signed(difference, digits)} {good === null ? "" : good ? "better" : "worse"}
    </span>
  );
}

/** Spans of the trades in one market. */
function spansIn(view: BacktestView, symbol: string, bars: Bars) {
  const own = view.trades.flatMap((trade, i) => (trade.symbol === symbol ? [i] : []));
  return spansOf(
    own.map((i) => view.trades[i]),
    bars,
    own.map((i) => view.levels[i]),
  );
}

interface LiveResultProps {
  live: LiveBacktest;
  before: BacktestView | null;
  beforeName: string;
  /** changes what the result is set against; left out where there is only one thing */
  onAgainst?: () => void;
  market: MarketView | undefined;
  /** all there are: a trade may be on another one */
  markets: readonly MarketView[];
  /** asks why, at a bar or in general */
  onWhy: (time: number | null) => void;
  /** the strategy's */
  timeframe: string;
  currency: string;
  name: string;
}

/** The result of what is being written, at once, against what stood before. */
export function LiveResult({ live, before, beforeName, onAgainst, market, markets, timeframe, currency, name, onWhy }: LiveResultProps) {
  const { view } = live;
  const [selected, setSelected] = useState<number | null>(null);
  const [sort, setSort] = useState("id");
  const [lower, setLower] = useState<"trades" | "figures">("trades");
  const [other, setOther] = useState<string | null>(null);
  const shown = markets.find((one) => one.symbol === (other ?? market?.symbol)) ?? market;
  const bars = useRunBars(shown, timeframe);
  const curves = useMemo<Curve[]>(() => {
    if (view === null) return [];
    const out: Curve[] = [{ name: "now", values: view.equity, role: "main" }];
    if (before !== null && before.times.length === view.times.length) out.push({ name: "before", values: before.equity, role: "before" });
    if (view.benchmark !== null) out.push({ name: `holding ${market?.symbol ?? ""}`, values: view.benchmark, role: "benchmark" });
    return out;
  }, [view, before, market?.symbol]);
  const spans = useMemo(() => (view !== null && bars !== null && shown ? spansIn(view, shown.symbol, bars) : []), [view, bars, shown]);
  const chosen = spans.find((span) => span.id === selected);
  const around = useMemo(
    () =>
      selected !== null && bars !== null
        ? viewAround(
            spans.find((span) => span.id === selected),
            bars,
          )
        : undefined,
    [selected, spans, bars],
  );

  if (view === null)
    return (
      <Panel title="Result">
        {live.failed !== null ? (
          <Problems problems={[{ path: "", message: live.failed }]} title="The backtest could not be computed" />
        ) : live.problems.length > 0 ? (
          <Problems problems={live.problems} title="No result yet" />
        ) : (
          <p className="py-24 text-center text-ink-soft">
            The result appears here as soon as there is a rule to enter and a market to trade.
          </p>
        )}
      </Panel>
    );
  const { all } = view.metrics;
  return (
    <div className={live.current ? "" : "opacity-60"} aria-busy={!live.current}>
      <section aria-label="Figures now" className="mb-3 rounded-[4px] border border-edge bg-sheet">
        <p className="flex justify-between border-b border-edge px-3.5 py-1 text-sm text-ink-soft">
          <span>
            {before === null ? "figures of this run" : `changed since before (${beforeName})`}
            {onAgainst && (
              <button type="button" className="quiet-link ml-2" onClick={onAgainst}>
                against {beforeName === "the try before" ? "the saved version" : "the try before"}
              </button>
            )}
          </span>
          <span data-took={view.took}>
            {decimal(view.bars, 0)} bars in {decimal(view.took, view.took < 10 ? 1 : 0)} ms
          </span>
        </p>
        <dl className="grid grid-cols-6">
          {STRIP.map(([metric, label]) => (
            <div key={metric} className="border-l border-edge px-2 py-1.5 first:border-l-0">
              <Tip text={METRICS[metric].definition}>
                <dt tabIndex={0} className="truncate text-xs text-ink-soft">
                  {label(currency)}
                </dt>
              </Tip>
              <dd className="figure-text m-0 text-lg font-semibold" data-metric={metric}>
                {metricText(metric, all[metric])}
              </dd>
              <dd className="m-0 leading-none">
                <Change metric={metric} now={all} before={before?.metrics.all ?? null} />
              </dd>
            </div>
          ))}
        </dl>
      </section>
      {live.problems.length > 0 && (
        <div className="mb-3">
          <Problems problems={live.problems} title="Shown is the last result that could be computed" />
        </div>
      )}
      {view.halted && (
        <p className="mb-3 border-l-4 border-clay px-3 py-1">
          The account was halted: nothing of the capital was left, and every position was closed.
        </p>
      )}
      <Panel
        title={`Equity, thousand ${currency}`}
        aside={
          <button type="button" className="quiet-link" onClick={() => onWhy(null)}>
            prices, and why
          </button>
        }
      >
        <EquityChart
          times={view.times}
          curves={curves}
          capital={view.metrics.all.netProfit === null ? 0 : view.equity[view.equity.length - 1] - view.metrics.all.netProfit}
          currency={currency}
          height={270}
          fileName={`${name}-equity`}
        />
      </Panel>
      {selected !== null && bars !== null && shown && (
        <Panel
          title={`Trade ${selected} on ${shown.symbol}`}
          className="mt-3"
          aside={
            <>
              {chosen && shown.symbol === market?.symbol && (
                <button type="button" className="quiet-link mr-3" onClick={() => onWhy(bars.time[Math.max(0, chosen.entryRow - 1)])}>
                  why this trade?
                </button>
              )}
              <button type="button" className="quiet-link" onClick={() => setSelected(null)}>
                close
              </button>
            </>
          }
        >
          <PriceChart
            symbol={shown.symbol}
            bars={bars}
            tick={shown.spec.tick}
            trades={spans}
            selected={selected}
            view={around}
            height={260}
          />
        </Panel>
      )}
      <Panel
        flush
        className="mt-3"
        title={lower === "trades" ? "Trades" : "Figures"}
        aside={
          <>
            <button
              type="button"
              className="quiet-link mr-3"
              onClick={() =>
                void live.ask({ what: "result", symbol: "" }).then((answer) => {
                  if (answer.what === "result") saveFile(`${name}-result.json`, `${answer.text}\n`, "application/json");
                })
              }
            >
              result file
            </button>
            <button type="button" className="quiet-link" onClick={() => setLower(lower === "trades" ? "figures" : "trades")}>
              {lower === "trades" ? "show all figures" : "show the trades"}
            </button>
          </>
        }
      >
        {lower === "trades" ? (
          <TradeTable
            trades={view.trades}
            ticks={Object.fromEntries(markets.map((one) => [one.symbol, one.spec.tick]))}
            selected={selected}
            onSelect={(id) => {
              setSelected(id);
              setOther(view.trades.find((trade) => trade.id === id)?.symbol ?? null);
            }}
            sort={sort}
            onSort={setSort}
            height={230}
            fileName={`${name}-trades`}
          />
        ) : (
          <div className="px-3.5 pb-3">
            <MetricTable keys={REPORT_KEYS} metrics={view.metrics} currency={currency} />
          </div>
        )}
      </Panel>
    </div>
  );
}
