import type { ChartConfiguration, ChartDataset } from "chart.js";
import { useCallback } from "react";
import { percentFalls, thin } from "#core/reading";
import { dateText, decimal } from "~/design/format";
import { Chart, Key } from "./chart";
import { faded, type Colours } from "./colours";
import { timeAxis } from "./time-axis";

export interface Curve {
  name: string;
  values: ArrayLike<number | null>;
  role: "main" | "before" | "second" | "benchmark" | "member";
}

export interface Stretch {
  name: string;
  from: number;
  to: number;
  tint: "in-sample" | "judged" | "none";
}

/** A fall of the first curve that is marked: a line at its peak from its start to its recovery (or to the end). */
export interface FallMark {
  name: string;
  from: number;
  to: number;
  level: number;
}

interface EquityChartProps {
  /** epoch milliseconds, shared by all curves */
  times: ArrayLike<number>;
  curves: Curve[];
  capital: number;
  currency: string;
  stretches?: Stretch[];
  marks?: readonly FallMark[];
  onBrush?: (from: number, to: number) => void;
  height?: number;
  fileName: string;
  /** equal distances for equal percentages; every value must be above 0 */
  logarithmic?: boolean;
}

/** The colour behind a stretch of time. */
export const stretchTint = ({ tint }: Stretch, colours: Colours): string =>
  tint === "in-sample" ? colours.tintIn : tint === "judged" ? faded(colours.slate, 0.09) : "transparent";

/** Stretches as boxes behind the curves, with their names. */
export const stretchBoxes = (stretches: readonly Stretch[], colours: Colours) =>
  Object.fromEntries(
    stretches.map((stretch, i) => [
      `stretch${i}`,
      {
        type: "box",
        xMin: stretch.from,
        xMax: stretch.to,
        drawTime: "beforeDatasetsDraw",
        backgroundColor: stretchTint(stretch, colours),
        borderWidth: 0,
        label: {
          display: stretch.name !== "",
          content: stretch.name,
          color: colours.inkSoft,
          position: { x: "start", y: "start" },
          font: { size: 11, weight: "normal" },
        },
      },
    ]),
  );

const NO_MARKS: readonly FallMark[] = [];

const STYLE: Record<Curve["role"], { colour: keyof Colours; width: number; dash?: number[] }> = {
  main: { colour: "river", width: 1.8 },
  before: { colour: "inkFaint", width: 1.2 },
  second: { colour: "ochre", width: 1.2, dash: [6, 2] },
  benchmark: { colour: "plum", width: 1.2, dash: [4, 3] },
  member: { colour: "inkFaint", width: 1 },
};
const LEGEND: Record<Curve["role"], string> = {
  main: "river",
  before: "ink-faint",
  second: "ochre",
  benchmark: "plum",
  member: "ink-faint",
};

/** Equity with its drawdown below on the same time axis, and what it is compared with. */
export function EquityChart({
  times,
  curves,
  capital,
  currency,
  stretches = [],
  marks = NO_MARKS,
  onBrush,
  height = 320,
  fileName,
  logarithmic = false,
}: EquityChartProps) {
  const config = useCallback(
    (colours: Colours): ChartConfiguration => {
      const falls = percentFalls(curves[0].values, capital);
      const line = (curve: Curve): ChartDataset<"line"> => {
        const style = STYLE[curve.role];
        return {
          type: "line",
          label: curve.name,
          data: thin(times, curve.values),
          borderColor: colours[style.colour],
          borderWidth: style.width,
          borderDash: style.dash,
          pointRadius: 0,
          pointHitRadius: 6,
          yAxisID: "y",
        };
      };
      const min = times[0];
      const max = times[times.length - 1];
      return {
        type: "line",
        data: {
          datasets: [
            ...curves.map(line),
            {
              type: "line",
              label: "drawdown, %",
              data: thin(times, falls),
              borderColor: colours.clay,
              borderWidth: 0.8,
              backgroundColor: faded(colours.clay, 0.28),
              fill: "origin",
              pointRadius: 0,
              pointHitRadius: 6,
              yAxisID: "fall",
            },
          ],
        },
        options: {
          parsing: false,
          normalized: true,
          responsive: true,
          maintainAspectRatio: false,
          interaction: { mode: "nearest", axis: "x", intersect: false },
          layout: { padding: { top: 6 } },
          scales: {
            x: timeAxis(colours, min, max),
            y: {
              type: logarithmic ? "logarithmic" : "linear",
              stack: "time",
              stackWeight: 3,
              weight: 2,
              grid: { color: faded(colours.edge, 0.6) },
              border: { display: false },
              ticks: {
                color: colours.inkSoft,
                font: { family: '"JetBrains Mono Variable", monospace', size: 11 },
                maxTicksLimit: 6,
                callback: (value: string | number, index: number) => (index === 0 ? "" : decimal(Number(value) / 1000, 0)),
              },
            },
            fall: {
              type: "linear",
              stack: "time",
              stackWeight: 1.1,
              weight: 1,
              max: 0,
              grid: { color: faded(colours.edge, 0.6) },
              border: { display: false },
              ticks: {
                color: colours.inkSoft,
                font: { family: '"JetBrains Mono Variable", monospace', size: 11 },
                maxTicksLimit: 3,
                callback: (value: string | number) => decimal(-Number(value), 0),
              },
            },
          } as never,
          plugins: {
            legend: { display: false },
            tooltip: {
              backgroundColor: colours.sheet,
              titleColor: colours.ink,
              bodyColor: colours.ink,
              borderColor: colours.edge,
              borderWidth: 1,
              callbacks: {
                title: (items: { raw: unknown }[]) => (items.length > 0 ? dateText((items[0].raw as { x: number }).x) : ""),
                label: (item: { raw: unknown; dataset: { label?: string; yAxisID?: string } }) =>
                  `${item.dataset.label}: ${decimal((item.raw as { y: number }).y, item.dataset.yAxisID === "fall" ? 1 : 0)}`,
              },
            },
            annotation: {
              annotations: {
                capital: {
                  type: "line",
                  scaleID: "y",
                  value: capital,
                  borderColor: colours.edge,
                  borderWidth: 1,
                  drawTime: "beforeDatasetsDraw",
                },
                ...Object.fromEntries(
                  marks.map((mark, i) => [
                    `fall${i}`,
                    {
                      type: "line",
                      xMin: mark.from,
                      xMax: mark.to,
                      yMin: mark.level,
                      yMax: mark.level,
                      yScaleID: "y",
                      borderColor: colours.ink,
                      borderWidth: 1,
                      borderDash: [2, 3],
                      label: {
                        display: true,
                        content: mark.name,
                        color: colours.ink,
                        backgroundColor: faded(colours.sheet, 0.85),
                        position: i === 0 ? "center" : "end",
                        yAdjust: -9,
                        padding: 2,
                        font: { size: 11, weight: "normal" },
                      },
                    },
                  ]),
                ),
                ...stretchBoxes(stretches, colours),
              },
            },
          } as never,
        },
      };
    },
    [times, curves, capital, stretches, marks, logarithmic],
  );

  const table = () => {
    const rows: (string | number)[][] = [];
    const falls = percentFalls(curves[0].values, capital);
    for (let t = 0; t < times.length; t++) {
      const last = t + 1 === times.length || dateText(times[t + 1]).slice(0, 7) !== dateText(times[t]).slice(0, 7);
      if (last) rows.push([dateText(times[t]), ...curves.map((curve) => decimal(curve.values[t], 0)), decimal(falls[t], 1)]);
    }
    return { columns: ["month's last bar", ...curves.map((curve) => `${curve.name}, ${currency}`), "drawdown, %"], rows };
  };

  const shown = curves.filter((curve, i) => curve.role !== "member" || curves.findIndex((c) => c.role === "member") === i);
  return (
    <Chart
      label={`Equity of ${curves.map((curve) => curve.name).join(", ")}, with the drawdown below`}
      config={config}
      height={height}
      table={table}
      fileName={fileName}
      onBrush={onBrush}
      legend={[
        ...shown.map((curve) => (
          <Key key={curve.name} colour={LEGEND[curve.role]} dashed={STYLE[curve.role].dash !== undefined}>
            {curve.role === "member" ? "members alone" : curve.name}
          </Key>
        )),
        <Key key="fall" colour="clay">
          drawdown, %
        </Key>,
      ]}
    />
  );
}
