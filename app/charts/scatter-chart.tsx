import type { Chart as ChartType, ChartConfiguration } from "chart.js";
import { useCallback } from "react";
import { thinDots } from "#core/reading";
import { decimal } from "~/design/format";
import { Chart, Key } from "./chart";
import { faded, type Colours } from "./colours";

export interface Dot {
  id: number;
  x: number;
  y: number;
  /** drawn hollow and in the other colour */
  bad: boolean;
}

interface Props {
  label: string;
  dots: readonly Dot[];
  axes: readonly [x: string, y: string];
  names: readonly [good: string, bad: string];
  /** levels that are drawn in, with their names; must be stable */
  levels?: readonly { axis: "x" | "y"; at: number; name: string }[];
  height?: number;
  fileName: string;
  onPick: (id: number) => void;
}

const NO_LEVELS: readonly never[] = [];

/** Dots in two kinds, told apart by colour and shape; a click picks one. */
export function ScatterChart({ label, dots, axes, names, levels = NO_LEVELS, height = 320, fileName, onPick }: Props) {
  const config = useCallback(
    (colours: Colours): ChartConfiguration => {
      const drawn = thinDots(dots);
      const axis = (text: string) => ({
        type: "linear" as const,
        beginAtZero: true,
        title: { display: true, text, color: colours.inkSoft },
        grid: { color: faded(colours.edge, 0.6) },
        ticks: { color: colours.inkSoft, font: { family: '"JetBrains Mono Variable", monospace', size: 11 }, maxTicksLimit: 8 },
      });
      const set = (bad: boolean) => ({
        type: "scatter" as const,
        label: names[bad ? 1 : 0],
        data: drawn.filter((dot) => dot.bad === bad).map(({ id, x, y }) => ({ id, x, y })),
        borderColor: bad ? colours.clay : colours.river,
        backgroundColor: bad ? "transparent" : faded(colours.river, 0.55),
        pointStyle: bad ? ("crossRot" as const) : ("circle" as const),
        pointRadius: bad ? 4 : 3,
        pointHitRadius: 6,
        borderWidth: 1.2,
      });
      return {
        type: "scatter",
        data: { datasets: [set(false), set(true)] },
        options: {
          responsive: true,
          maintainAspectRatio: false,
          animation: false,
          scales: { x: axis(axes[0]), y: axis(axes[1]) },
          onClick: (_event, items, chart) => {
            const [item] = items;
            if (item === undefined) return;
            const data = (chart as ChartType).data.datasets[item.datasetIndex].data as unknown as { id: number }[];
            onPick(data[item.index].id);
          },
          plugins: {
            legend: { display: false },
            annotation: {
              annotations: Object.fromEntries(
                levels.map(({ axis: along, at, name }, i) => [
                  `level${i}`,
                  {
                    type: "line",
                    scaleID: along,
                    value: at,
                    borderColor: colours.ink,
                    borderWidth: 1,
                    borderDash: [5, 3],
                    label: {
                      display: true,
                      content: name,
                      color: colours.ink,
                      backgroundColor: faded(colours.sheet, 0.85),
                      padding: 2,
                      position: "end",
                      font: { size: 11, weight: "normal" },
                    },
                  },
                ]),
              ),
            },
            tooltip: {
              callbacks: {
                label: (item) => {
                  const { id, x, y } = item.raw as Dot;
                  return `trade ${id}: ${decimal(x, 2)}, ${decimal(y, 2)}`;
                },
              },
            },
          },
        },
      } as ChartConfiguration;
    },
    [dots, axes, names, levels, onPick],
  );
  const table = useCallback(
    () => ({ columns: ["trade", ...axes], rows: dots.slice(0, 2000).map(({ id, x, y }) => [id, decimal(x, 2), decimal(y, 2)]) }),
    [dots, axes],
  );
  return (
    <Chart
      label={label}
      config={config}
      height={height}
      table={table}
      fileName={fileName}
      legend={
        <>
          <Key colour="river">{names[0]}: dots</Key>
          <Key colour="clay">{names[1]}: crosses</Key>
          {dots.length > 4000 && <span>those on top of each other are drawn once</span>}
        </>
      }
    />
  );
}
