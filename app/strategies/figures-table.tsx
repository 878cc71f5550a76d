import type { ReactNode } from "react";
import type { Metrics } from "#core/documents";
import { metricText } from "~/design/format";

export const FIGURES: readonly [metric: string, head: string][] = [
  ["netProfit", "net"],
  ["profitToDrawdown", "profit ÷ drawdown"],
  ["profitFactor", "profit factor"],
  ["averageTrade", "a trade"],
  ["trades", "trades"],
];

interface FiguresTableProps {
  label: string;
  first: string;
  rows: readonly { key: string; name: ReactNode; chosen: boolean; metrics: Metrics | null | undefined; more?: string }[];
  more?: string;
  /** room for a dozen rows before it scrolls */
  tall?: boolean;
}

/** Results side by side, a row each; figures that are still being computed are dots, those that can't be had a dash. */
export function FiguresTable({ label, first, rows, more, tall = false }: FiguresTableProps) {
  return (
    <div className={`${tall ? "max-h-[420px]" : "max-h-72"} overflow-auto`} tabIndex={0} role="region" aria-label={label}>
      <table className="w-full text-sm">
        <thead className="sticky top-0 bg-sheet text-ink-soft">
          <tr>
            <th className="px-3.5 py-1 text-left font-normal">{first}</th>
            {FIGURES.map(([metric, head]) => (
              <th key={metric} className="px-2 py-1 text-right font-normal">
                {head}
              </th>
            ))}
            {more && <th className="px-2 py-1 text-right font-normal">{more}</th>}
          </tr>
        </thead>
        <tbody>
          {rows.map(({ key, name, chosen, metrics, more: extra }) => (
            <tr key={key} className={`border-t border-edge/60 ${chosen ? "bg-shade font-semibold" : ""}`}>
              <td className="px-3.5 py-0.5">{name}</td>
              {FIGURES.map(([metric]) => (
                <td key={metric} className="figure-text px-2 py-0.5 text-right">
                  {metrics === undefined ? "…" : metrics === null ? "–" : metricText(metric, metrics[metric])}
                </td>
              ))}
              {more && <td className="figure-text px-2 py-0.5 text-right">{metrics === undefined ? "…" : (extra ?? "–")}</td>}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
