import type { ChartConfiguration } from "chart.js";
import { useCallback } from "react";
import type { DatedSeries } from "#core/bars";
import { dateText, decimal } from "~/design/format";
import { Chart } from "./chart";
import { faded, type Colours } from "./colours";
import { timeAxis } from "./time-axis";

/** Dated values as steps: each is in force until the next one. */
export function SeriesChart({ name, points }: { name: string; points: DatedSeries }) {
  const config = useCallback(
    (colours: Colours): ChartConfiguration =>
      ({
        type: "line",
        data: {
          datasets: [
            {
              type: "line",
              label: name,
              data: points.time.map((x, i) => ({ x, y: points.value[i] })),
              stepped: "before",
              borderColor: colours.plum,
              borderWidth: 1.5,
              pointRadius: points.time.length > 200 ? 0 : 2,
              pointBackgroundColor: colours.sheet,
            },
          ],
        },
        options: {
          parsing: false,
          responsive: true,
          maintainAspectRatio: false,
          scales: {
            x: timeAxis(colours, points.time[0], points.time[points.time.length - 1]),
            y: {
              type: "linear",
              position: "right",
              grid: { color: faded(colours.edge, 0.6) },
              border: { display: false },
              ticks: { color: colours.inkSoft, maxTicksLimit: 5 },
            },
          },
          plugins: { legend: { display: false } },
        },
      }) as unknown as ChartConfiguration,
    [name, points],
  );
  const table = useCallback(
    () => ({ columns: ["date", name], rows: points.time.map((time, i) => [dateText(time), decimal(points.value[i], 4)]) }),
    [name, points],
  );
  return <Chart label={`${name} over time`} config={config} height={200} table={table} fileName={name} />;
}
