import type { Metrics } from "#core/documents";
import type { StretchRow } from "#core/portfolio";
import { decimal, metricText, signedMoney } from "~/design/format";

interface Props {
  metrics: Metrics;
  currency: string;
  stretches: { estimated: StretchRow; judged: StretchRow } | null;
}

/** The few figures that a portfolio is looked at for first. */
export function FigureStrip({ metrics, currency, stretches }: Props) {
  const figures: [label: string, value: string][] = [
    [`Net profit, ${currency}`, signedMoney(metrics.netProfit)],
    ["CAGR, %", metricText("cagr", metrics.cagr)],
    ["Max drawdown, %", metricText("maxDrawdownPercent", metrics.maxDrawdownPercent)],
    ["Profit ÷ drawdown", metricText("profitToDrawdown", metrics.profitToDrawdown)],
    ...((stretches === null
      ? [["Sharpe", metricText("sharpe", metrics.sharpe)]]
      : [
          ["Sharpe, estimated stretch", decimal(stretches.estimated.sharpe, 2)],
          ["Sharpe, judged stretch", decimal(stretches.judged.sharpe, 2)],
        ]) as [string, string][]),
    ["Longest under water, days", metricText("longestDrawdownDays", metrics.longestDrawdownDays)],
  ];
  return (
    <dl className="mb-3 flex flex-wrap justify-between gap-x-6 gap-y-2 rounded-[4px] border border-edge bg-sheet px-3.5 py-2.5">
      {figures.map(([label, value]) => (
        <div key={label}>
          <dt className="text-sm text-ink-soft">{label}</dt>
          <dd className="figure-text text-lg font-semibold">{value}</dd>
        </div>
      ))}
    </dl>
  );
}
