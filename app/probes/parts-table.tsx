import type { ProbePart } from "#core/probes";
import { MetricName } from "~/design/metric-table";
import { decimal, metricText } from "~/design/format";

const COMPARED = ["netPercent", "cagr", "maxDrawdownPercent", "mar", "profitFactor", "trades", "winRate", "averageTrade", "sharpe"];

/** Figures of the runs that a probe compares: side by side, with what the second lost, or one a row where there are many. */
export function PartsTable({ parts, currency }: { parts: readonly ProbePart[]; currency: string }) {
  if (parts.length === 0) return null;
  if (parts.length > 2) return <ManyParts parts={parts} currency={currency} />;
  const two = parts.length === 2;
  return (
    <table aria-label="Figures side by side" className="mb-3 w-full border-collapse">
      <thead className="text-sm text-ink-soft">
        <tr>
          <th scope="col">
            <span className="sr-only">figure</span>
          </th>
          {parts.map((part) => (
            <th key={part.name} scope="col" className="pl-2 text-right font-normal" title={`${part.from} to ${part.to}`}>
              {part.name}
            </th>
          ))}
          {two && (
            <th scope="col" className="pl-2 text-right font-normal">
              kept
            </th>
          )}
        </tr>
      </thead>
      <tbody>
        {COMPARED.map((key) => {
          const [a, b] = parts.map((part) => part.metrics[key]);
          return (
            <tr key={key} className="border-t border-edge/60">
              <th scope="row" className="py-[2px] text-left font-normal">
                <MetricName metric={key} currency={currency} />
              </th>
              {parts.map((part) => (
                <td key={part.name} className="figure-text pl-2 text-right">
                  {metricText(key, part.metrics[key])}
                </td>
              ))}
              {two && (
                <td className="figure-text pl-2 text-right text-ink-soft">
                  {a !== null && b !== null && a > 0 ? `${decimal((100 * b) / a, 0)} %` : "–"}
                </td>
              )}
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

const MANY = ["netPercent", "maxDrawdownPercent", "profitFactor", "trades"];

function ManyParts({ parts, currency }: { parts: readonly ProbePart[]; currency: string }) {
  const judged = parts.some((part) => part.held !== undefined);
  return (
    <div className="mb-3 max-h-[420px] overflow-auto">
      <table aria-label="Figures, one run a row" className="w-full border-collapse">
        <thead className="text-sm text-ink-soft">
          <tr>
            <th scope="col" className="text-left font-normal">
              run
            </th>
            {MANY.map((key) => (
              <th key={key} scope="col" className="pl-2 text-right font-normal">
                <MetricName metric={key} currency={currency} />
              </th>
            ))}
            {judged && (
              <th scope="col">
                <span className="sr-only">holds</span>
              </th>
            )}
          </tr>
        </thead>
        <tbody>
          {parts.map((part, k) => (
            <tr key={part.name} className={`border-t ${k === 1 ? "border-ink-faint" : "border-edge/60"}`}>
              <th scope="row" className="py-[2px] text-left font-normal" title={`${part.from} to ${part.to}`}>
                {part.name}
              </th>
              {MANY.map((key) => (
                <td key={key} className="figure-text pl-2 text-right">
                  {metricText(key, part.metrics[key])}
                </td>
              ))}
              {judged && (
                <td className={`pl-2 text-right whitespace-nowrap ${part.held ? "text-moss-ink" : "text-clay"}`}>
                  {part.held === undefined ? "" : part.held ? "holds" : "does not"}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
