import { useMemo, useState } from "react";
import type { Metrics } from "#core/documents";
import { parseTimeframe } from "#core/bars";
import { METRICS } from "#core/metrics";
import { sourceFor } from "#server/market-source";
import type { MarketView } from "#server/markets";
import { EquityChart, type Curve } from "~/charts/equity-chart";
import { PriceChart } from "~/charts/price-chart";
import { decimal, metricText, signed } from "~/design/format";
import { MetricTable } from "~/design/metric-table";
import { Panel, Problems } from "~/design/panel";
import { Tip } from "~/design/tip";
import { useDerived } from "~/markets/use-derived";
import { useBars } from "~/markets/use-bars";
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

interface LiveResultProps {
  live: LiveBacktest;
  before: BacktestView | null;
  beforeName: string;
  market: MarketView | undefined;
  /** the strategy's */
  timeframe: string;
  currency: string;
  name: string;
}

/** The result of what is being written, at once, against what stood before. */
export function LiveResult({ live, before, beforeName, market, timeframe, currency, name }: LiveResultProps) {
  const { view } = live;
  const [selected, setSelected] = useState<number | null>(null);
  const [sort, setSort] = useState("id");
  const [lower, setLower] = useState<"trades" | "figures">("trades");
  const parsed = parseTimeframe(timeframe);
  const source = market === undefined || parsed === null ? null : sourceFor(market, parsed);
  const derived = useDerived(
    source === null ? null : { bars: source.barsHash, timeframe: source.timeframe, session: market!.spec.session },
    timeframe,
  );
  const { bars } = useBars(derived.bars?.hash ?? null);
  const curves = useMemo<Curve[]>(() => {
    if (view === null) return [];
    const out: Curve[] = [{ name: "now", values: view.equity, role: "main" }];
    if (before !== null && before.times.length === view.times.length) out.push({ name: "before", values: before.equity, role: "before" });
    if (view.benchmark !== null) out.push({ name: `holding ${market?.symbol ?? ""}`, values: view.benchmark, role: "benchmark" });
    return out;
  }, [view, before, market?.symbol]);
  const spans = useMemo(() => (view !== null && bars !== null ? spansOf(view.trades, bars, view.levels) : []), [view, bars]);
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
          <span>{before === null ? "figures of this run" : `changed since before (${beforeName})`}</span>
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
      <Panel title={`Equity, thousand ${currency}`}>
        <EquityChart
          times={view.times}
          curves={curves}
          capital={view.metrics.all.netProfit === null ? 0 : view.equity[view.equity.length - 1] - view.metrics.all.netProfit}
          currency={currency}
          height={270}
          fileName={`${name}-equity`}
        />
      </Panel>
      {selected !== null && bars !== null && market && (
        <Panel
          title={`Trade ${selected} on ${market.symbol}`}
          className="mt-3"
          aside={
            <button type="button" className="quiet-link" onClick={() => setSelected(null)}>
              close
            </button>
          }
        >
          <PriceChart
            symbol={market.symbol}
            bars={bars}
            tick={market.spec.tick}
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
          <button type="button" className="quiet-link" onClick={() => setLower(lower === "trades" ? "figures" : "trades")}>
            {lower === "trades" ? "show all figures" : "show the trades"}
          </button>
        }
      >
        {lower === "trades" ? (
          <TradeTable
            trades={view.trades}
            ticks={market ? { [market.symbol]: market.spec.tick } : {}}
            selected={selected}
            onSelect={setSelected}
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
