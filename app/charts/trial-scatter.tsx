import type { Chart as ChartType, ChartConfiguration } from "chart.js";
import { useCallback, type ReactNode } from "react";
import { decimal } from "~/design/format";
import { Chart, Key } from "./chart";
import { faded, type Colours } from "./colours";

/** A trial by two figures. */
export interface TrialDot {
  number: number;
  x: number;
  y: number;
}

interface Props {
  label: string;
  /** those that are drawn; must be stable, as the others */
  trials: readonly TrialDot[];
  front: readonly TrialDot[];
  /** places that are marked, with their signs */
  marks: readonly { x: number; y: number; sign: string }[];
  axes: readonly [x: string, y: string];
  height?: number;
  fileName: string;
  onPick: (trial: number) => void;
  /** what stands above it, where it is no front */
  legend?: ReactNode;
}

/** Trials by two figures: all as pale dots, those that none beats in both joined by a line; a click picks one. */
export function TrialScatter({ label, trials, front, marks, axes, height = 300, fileName, onPick, legend }: Props) {
  const config = useCallback(
    (colours: Colours): ChartConfiguration => {
      const axis = (text: string) => ({
        type: "linear" as const,
        title: { display: true, text, color: colours.inkSoft },
        grid: { color: faded(colours.edge, 0.6) },
        ticks: { color: colours.inkSoft, font: { family: '"JetBrains Mono Variable", monospace', size: 11 }, maxTicksLimit: 7 },
      });
      return {
        type: "scatter",
        data: {
          datasets: [
            {
              type: "scatter",
              label: "none beats it in both",
              data: front.map(({ number, x, y }) => ({ number, x, y })),
              showLine: true,
              borderColor: colours.river,
              borderWidth: 1.6,
              backgroundColor: colours.river,
              pointRadius: 3.2,
              pointHitRadius: 6,
            },
            {
              type: "scatter",
              label: "all",
              data: trials.map(({ number, x, y }) => ({ number, x, y })),
              borderColor: "transparent",
              backgroundColor: faded(colours.slate, 0.35),
              pointRadius: 2,
              pointHitRadius: 4,
            },
          ],
        },
        options: {
          responsive: true,
          maintainAspectRatio: false,
          animation: false,
          scales: { x: axis(axes[0]), y: axis(axes[1]) },
          onClick: (_event, items, chart) => {
            const [item] = items;
            if (item === undefined) return;
            onPick(((chart as ChartType).data.datasets[item.datasetIndex].data[item.index] as unknown as TrialDot).number);
          },
          plugins: {
            legend: { display: false },
            annotation: {
              annotations: Object.fromEntries(
                marks.map(({ x, y, sign }, i) => [
                  `mark${i}`,
                  { type: "label", xValue: x, yValue: y, content: sign, color: colours.ink, font: { size: 15, weight: "bold" } },
                ]),
              ),
            },
            tooltip: {
              callbacks: {
                label: (item) => {
                  const { number, x, y } = item.raw as TrialDot;
                  return `trial ${number}: ${decimal(x, 2)}, ${decimal(y, 2)}`;
                },
              },
            },
          },
        },
      } as ChartConfiguration;
    },
    [trials, front, marks, axes, onPick],
  );
  const table = useCallback(
    () => ({ columns: ["trial on the front", ...axes], rows: front.map(({ number, x, y }) => [number, decimal(x, 2), decimal(y, 2)]) }),
    [front, axes],
  );
  return (
    <Chart
      label={label}
      config={config}
      height={height}
      table={table}
      fileName={fileName}
      legend={
        legend ?? (
          <>
            <Key colour="river">none beats it in both</Key>
            <span className="whitespace-nowrap">✕ peak ◎ middle ○ the version</span>
          </>
        )
      }
    />
  );
}
