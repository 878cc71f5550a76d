import type { Chart as ChartType, ChartConfiguration } from "chart.js";
import { useCallback, useEffect, useRef } from "react";
import { firstAtOrAfter, type Bars } from "#core/bars";
import { decimal, momentText } from "~/design/format";
import { Chart, Key } from "./chart";
import { faded, type Colours } from "./colours";
import type { Overlay } from "./price-bars";
import { timeTicks } from "./time-axis";

/** A formula in a pane of its own, over the same rows as the prices above it. */
export function PaneChart({
  bars,
  overlay,
  yesNo,
  view,
}: {
  bars: Bars;
  overlay: Overlay;
  yesNo: boolean;
  view: readonly [number, number];
}) {
  const chart = useRef<ChartType | null>(null);
  const latest = useRef(view);
  latest.current = view;
  const range = useCallback(
    ([from, to]: readonly [number, number]): [number, number] => {
      if (yesNo) return [-0.1, 1.1];
      let low = Infinity;
      let high = -Infinity;
      const first = Math.max(0, Math.floor(from));
      const last = Math.min(bars.length - 1, Math.ceil(to));
      const every = Math.max(1, Math.floor((last - first) / 20_000));
      for (let i = first; i <= last; i += every) {
        const value = overlay.column[i];
        if (value < low) low = value;
        if (value > high) high = value;
      }
      if (low > high) return [0, 1];
      const air = (high - low) * 0.08 || 1;
      return [low - air, high + air];
    },
    [bars, overlay, yesNo],
  );
  const config = useCallback(
    (colours: Colours): ChartConfiguration => {
      const [low, high] = range(latest.current);
      return {
        type: "scatter",
        data: { datasets: [{ type: "scatter", label: overlay.label, data: [], pointRadius: 0 }] },
        options: {
          responsive: true,
          maintainAspectRatio: false,
          events: [],
          scales: {
            x: {
              type: "linear",
              min: latest.current[0],
              max: latest.current[1],
              grid: { display: false },
              border: { color: colours.edge },
              afterBuildTicks: (axis: { min: number; max: number; ticks: { value: number }[] }) => {
                const first = bars.time[Math.max(0, Math.floor(axis.min))] ?? bars.time[0];
                const last = bars.time[Math.min(bars.length - 1, Math.ceil(axis.max))];
                axis.ticks = timeTicks(first, last).map((time) => ({ value: firstAtOrAfter(bars.time, time) }));
              },
              ticks: { display: false },
            },
            y: {
              type: "linear",
              position: "right",
              // panes above each other share their left and right edges
              afterFit: (axis: { width: number }) => {
                axis.width = 64;
              },
              min: low,
              max: high,
              grid: { color: faded(colours.edge, 0.6) },
              border: { display: false },
              ticks: {
                color: colours.inkSoft,
                font: { family: '"JetBrains Mono Variable", monospace', size: 11 },
                maxTicksLimit: 3,
                includeBounds: false,
              },
            },
          },
          plugins: {
            legend: { display: false },
            tooltip: { enabled: false },
            paneLine: { options: { column: overlay.column, colour: colours[overlay.colour] } },
          },
        },
      } as unknown as ChartConfiguration;
    },
    [bars, overlay, range],
  );
  const [from, to] = view;
  useEffect(() => {
    const target = chart.current;
    if (target === null) return;
    const [low, high] = range([from, to]);
    Object.assign(target.options.scales!.x!, { min: from, max: to });
    Object.assign(target.options.scales!.y!, { min: low, max: high });
    target.update("none");
  }, [from, to, range]);
  const table = useCallback(() => {
    const rows: (string | number)[][] = [];
    for (
      let i = Math.max(0, Math.floor(latest.current[0]));
      i <= Math.min(bars.length - 1, Math.ceil(latest.current[1])) && rows.length < 2000;
      i++
    )
      rows.push([momentText(bars.time[i]), Number.isNaN(overlay.column[i]) ? "–" : decimal(overlay.column[i], 4)]);
    return { columns: ["time, UTC", overlay.label], rows };
  }, [bars, overlay]);
  return (
    <Chart
      label={`${overlay.label}, below the prices`}
      config={config}
      height={96}
      table={table}
      fileName={overlay.label.replace(/[^A-Za-z0-9]+/g, "-")}
      legend={<Key colour={overlay.colour}>{overlay.label}</Key>}
      chartRef={chart}
    />
  );
}
