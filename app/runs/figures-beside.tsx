import type { Metrics } from "#core/documents";
import { METRICS } from "#core/metrics";
import { figureRows } from "#core/reading";
import { metricLabel, metricText } from "~/design/format";
import { PlainTable, type PlainRow } from "~/design/plain-table";

interface Props {
  label: string;
  fileName: string;
  /** one name a column, the one that others are held against first */
  names: readonly string[];
  metrics: readonly Metrics[];
  keys: readonly string[];
  currency?: string;
  /** rows above the figures */
  above?: readonly PlainRow[];
}

/** Figures of several results beside each other, marked where one differs from the first by more than a tenth. */
export function FiguresBeside({ label, fileName, names, metrics, keys, currency, above = [] }: Props) {
  const rows = figureRows(keys, metrics);
  return (
    <PlainTable
      label={label}
      fileName={fileName}
      heads={["figure", ...names]}
      rows={[
        ...above,
        ...rows.map(({ key, values, much }) => ({
          key,
          cells: [
            <span key="name" title={METRICS[key].definition}>
              {metricLabel(key, currency)}
            </span>,
            ...values.map((value, i) => (
              <span key={i} className={much[i] ? "font-semibold" : ""}>
                {much[i] && (
                  <span className="text-ochre" title="differs by more than a tenth">
                    ◆{" "}
                  </span>
                )}
                {metricText(key, value)}
              </span>
            )),
          ],
          file: [key, ...values],
        })),
      ]}
    />
  );
}
