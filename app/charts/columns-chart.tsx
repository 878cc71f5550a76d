import type { ChartConfiguration } from "chart.js";
import { useCallback } from "react";
import { Chart } from "./chart";
import { faded, type Colours } from "./colours";

const NONE: ReadonlySet<number> = new Set();

/** Counts as columns, one a name. */
export function ColumnsChart({
  label,
  names,
  values,
  highlight,
  marked = NONE,
  height = 160,
  fileName,
  format = String,
}: {
  label: string;
  names: readonly string[];
  values: readonly number[];
  /** index of a column that stands for the ordinary, drawn paler */
  highlight?: number;
  /** columns that are set off by an outline; must be stable */
  marked?: ReadonlySet<number>;
  height?: number;
  fileName: string;
  format?: (value: number) => string;
}) {
  const config = useCallback(
    (colours: Colours): ChartConfiguration =>
      ({
        type: "bar",
        data: {
          labels: [...names],
          datasets: [
            {
              label,
              data: [...values],
              backgroundColor: values.map((_, i) =>
                marked.has(i) ? colours.ochre : i === highlight ? faded(colours.slate, 0.35) : colours.slate,
              ),
              borderColor: colours.ink,
              borderWidth: values.map((_, i) => (marked.has(i) ? 1.5 : 0)),
              barPercentage: 1,
              categoryPercentage: 0.92,
            },
          ],
        },
        options: {
          responsive: true,
          maintainAspectRatio: false,
          scales: {
            x: {
              grid: { display: false },
              border: { color: colours.edge },
              ticks: { color: colours.inkSoft, maxRotation: 0, autoSkip: true },
            },
            y: {
              beginAtZero: true,
              grid: { color: faded(colours.edge, 0.6) },
              border: { display: false },
              ticks: { color: colours.inkSoft, maxTicksLimit: 5, callback: (value: string | number) => format(Number(value)) },
            },
          },
          plugins: { legend: { display: false } },
        },
      }) as ChartConfiguration,
    [label, names, values, highlight, marked, format],
  );
  const table = useCallback(
    () => ({ columns: ["", label], rows: names.map((name, i) => [name, format(values[i])]) }),
    [names, values, label, format],
  );
  return <Chart label={label} config={config} height={height} table={table} fileName={fileName} />;
}
