import { Download } from "lucide-react";
import type { ReactNode } from "react";
import type { Metrics } from "#core/documents";
import { METRICS } from "#core/metrics";
import { metricText } from "~/design/format";
import { saveCsv } from "~/design/save";

interface Props {
  label: string;
  first: string;
  /** figures by their keys, a column each */
  columns: readonly string[];
  rows: readonly { key: string; name: string; figures: Metrics; strong?: boolean; more?: ReactNode }[];
  more?: string;
  maxHeight?: number;
  /** name of the CSV file that the table can be saved as */
  fileName: string;
}

/** Figures of several parts or runs, a row each. */
export function FactsTable({ label, first, columns, rows, more, maxHeight, fileName }: Props) {
  const save = () =>
    saveCsv(
      fileName,
      [first, ...columns],
      rows.map((row) => [row.name, ...columns.map((key) => row.figures[key] ?? "")]),
    );
  return (
    <div className="overflow-auto" style={{ maxHeight }} tabIndex={0} role="region" aria-label={label}>
      <table className="w-full border-collapse">
        <thead className="sticky top-0 bg-sheet text-sm text-ink-soft">
          <tr>
            <th scope="col" className="px-3.5 py-1 text-left font-normal">
              {first}
              <button
                type="button"
                onClick={save}
                aria-label={`Save “${label}” as CSV`}
                title="Save as CSV"
                className="ml-1.5 rounded p-0.5 align-middle hover:bg-shade"
              >
                <Download size={13} aria-hidden />
              </button>
            </th>
            {columns.map((key) => (
              <th key={key} scope="col" className="px-2 py-1 text-right font-normal" title={METRICS[key].definition}>
                {METRICS[key].label.toLowerCase() + (METRICS[key].unit === "percent" || METRICS[key].unit === "fraction" ? ", %" : "")}
              </th>
            ))}
            {more && (
              <th scope="col" className="px-3.5 py-1 text-right font-normal">
                {more}
              </th>
            )}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.key} className={`border-t border-edge/60 ${row.strong ? "bg-shade font-semibold" : ""}`}>
              <th scope="row" className="px-3.5 py-1 text-left font-normal">
                {row.name}
              </th>
              {columns.map((key) => (
                <td key={key} className="figure-text px-2 text-right whitespace-nowrap">
                  {metricText(key, row.figures[key] ?? null)}
                </td>
              ))}
              {more && <td className="figure-text px-3.5 text-right whitespace-nowrap">{row.more}</td>}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
