import type { ChartConfiguration } from "chart.js";
import { useCallback } from "react";
import { firstAtOrAfter } from "#core/bars";
import { thin } from "#core/reading";
import { dateText, decimal } from "~/design/format";
import { Chart, Key } from "./chart";
import { faded, type Colours } from "./colours";
import { stretchBoxes, type Stretch } from "./equity-chart";
import { timeAxis } from "./time-axis";

export interface Line {
  name: string;
  /** epoch milliseconds, rising; numbers where the chart counts them */
  time: ArrayLike<number>;
  value: ArrayLike<number | null>;
  /** what the line is to the others; without it lines are told apart by their place in the list */
  look?: "main" | "quiet" | "benchmark" | "second";
}

const LOOKS: Record<NonNullable<Line["look"]>, { colour: keyof Colours & string; dash: number[]; width: number }> = {
  main: { colour: "river", dash: [], width: 2.2 },
  quiet: { colour: "inkFaint", dash: [], width: 1 },
  benchmark: { colour: "plum", dash: [4, 3], width: 1.3 },
  second: { colour: "ochre", dash: [6, 2], width: 1.4 },
};

const STYLES: readonly { colour: keyof Colours & string; dash: number[] }[] = [
  { colour: "ink", dash: [] },
  { colour: "plum", dash: [5, 3] },
  { colour: "ochre", dash: [2, 2] },
  { colour: "moss", dash: [7, 3, 2, 3] },
  { colour: "slate", dash: [1, 3] },
  { colour: "clay", dash: [9, 4] },
  { colour: "river", dash: [3, 5] },
  { colour: "inkSoft", dash: [4, 2, 1, 2] },
];

/** Pixels that an axis of values takes at least. */
const AXIS = 74;

interface Props {
  label: string;
  /** at most eight; must be stable while their data is */
  lines: readonly Line[];
  height?: number;
  fileName: string;
  /** what the axis along counts, where it is no time */
  numbered?: string;
  /** how a value on the axis is written */
  tick?: (value: number) => string;
  /** tinted stretches of time; must be stable */
  stretches?: readonly Stretch[];
  /** equal distances for equal percentages; every value must be above 0 */
  logarithmic?: boolean;
}

const NO_STRETCHES: readonly Stretch[] = [];
const styleOf = ({ look }: Line, i: number) => (look === undefined ? { ...STYLES[i % STYLES.length], width: 1.5 } : LOOKS[look]);

const plain = (value: number): string => decimal(value, 0);

/** Curves on one time axis, told apart by colour and dashes. */
export function LinesChart({
  label,
  lines,
  height = 300,
  fileName,
  numbered,
  tick = plain,
  stretches = NO_STRETCHES,
  logarithmic = false,
}: Props) {
  const config = useCallback(
    (colours: Colours): ChartConfiguration => {
      const min = Math.min(...lines.map((line) => line.time[0]));
      const max = Math.max(...lines.map((line) => line.time[line.time.length - 1]));
      return {
        type: "line",
        data: {
          datasets: lines.map((line, i) => ({
            type: "line",
            label: line.name,
            data: thin(line.time, line.value),
            borderColor: colours[styleOf(line, i).colour],
            borderDash: styleOf(line, i).dash,
            borderWidth: styleOf(line, i).width,
            pointRadius: 0,
          })),
        },
        options: {
          parsing: false,
          normalized: true,
          responsive: true,
          maintainAspectRatio: false,
          interaction: { mode: "nearest", axis: "x", intersect: false },
          scales: {
            x: numbered === undefined ? timeAxis(colours, min, max) : countAxis(colours, min, max, numbered),
            y: {
              type: logarithmic ? "logarithmic" : "linear",
              position: "right",
              // charts that stand below each other keep one axis along
              afterFit: (scale: { width: number }) => {
                scale.width = Math.max(scale.width, AXIS);
              },
              grid: { color: faded(colours.edge, 0.6) },
              border: { display: false },
              ticks: {
                color: colours.inkSoft,
                font: { family: '"JetBrains Mono Variable", monospace', size: 11 },
                maxTicksLimit: 7,
                callback: (value: string | number) => tick(Number(value)),
              },
            },
          } as never,
          plugins: {
            legend: { display: false },
            annotation: { annotations: stretchBoxes(stretches, colours) },
            tooltip: {
              callbacks: {
                title: (items: { raw: unknown }[]) => {
                  const x = (items[0]?.raw as { x: number } | undefined)?.x;
                  return x === undefined ? "" : numbered === undefined ? dateText(x) : `${numbered} ${x}`;
                },
                label: (item: { raw: unknown; dataset: { label?: string } }) =>
                  `${item.dataset.label}: ${tick((item.raw as { y: number }).y)}`,
              },
            },
          },
        },
      } as ChartConfiguration;
    },
    [lines, tick, numbered, stretches, logarithmic],
  );
  const table = useCallback(() => {
    const times = [...new Set(lines.flatMap((line) => thin(line.time, line.value).map((point) => point.x)))].sort((a, b) => a - b);
    return {
      columns: [numbered ?? "date", ...lines.map((line) => line.name)],
      rows: times.map((time) => [
        numbered === undefined ? dateText(time) : time,
        ...lines.map((line) => {
          const row = firstAtOrAfter(line.time as Float64Array, time);
          return line.time[row] === time ? decimal(line.value[row], 2) : "–";
        }),
      ]),
    };
  }, [lines, numbered]);
  return (
    <Chart
      label={label}
      config={config}
      height={height}
      table={table}
      fileName={fileName}
      legend={lines.map((line, i) => (
        <Key key={line.name} colour={kebab(styleOf(line, i).colour)} dashed={styleOf(line, i).dash.length > 0}>
          {line.name}
        </Key>
      ))}
    />
  );
}

/** An axis that counts. */
const countAxis = (colours: Colours, min: number, max: number, what: string) => ({
  type: "linear" as const,
  min,
  max,
  title: { display: true, text: what, color: colours.inkSoft },
  grid: { display: false },
  border: { color: colours.edge },
  ticks: { color: colours.inkSoft, maxRotation: 0, precision: 0, callback: (value: string | number) => decimal(Number(value), 0) },
});

const kebab = (name: string): string => name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`);
