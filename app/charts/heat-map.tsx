import type { ChartConfiguration } from "chart.js";
import { useCallback, useMemo } from "react";
import { decimal } from "~/design/format";
import { Chart } from "./chart";
import { faded, type Colours } from "./colours";

interface HeatMapProps {
  x: string;
  y: string;
  metric: string;
  /** x, y, value (null: outside the limits or without one), trial */
  cells: readonly [number, number, number | null, number][];
  /** trial to be marked as the best */
  best: number | null;
  /** the deepest trial of the plateau, and all of its trials with their depth in steps */
  recommended?: number | null;
  plateau?: ReadonlyMap<number, number>;
  /** the version's own values */
  own: { x: number; y: number };
  onPick: (trial: number) => void;
  height?: number;
}

const NONE: ReadonlyMap<number, number> = new Map();
type Cells = HeatMapProps["cells"];

/** The plateau's outline: the sides of its cells beyond which there is another kind of cell, or none; in places of the axes. */
function outlineOf(cells: Cells, plateau: ReadonlyMap<number, number>, xs: readonly number[], ys: readonly number[]) {
  const inside = new Set(cells.filter((cell) => plateau.has(cell[3])).map((cell) => `${xs.indexOf(cell[0])} ${ys.indexOf(cell[1])}`));
  return [...inside].flatMap((key) => {
    const [x, y] = key.split(" ").map(Number);
    const sides = [
      [x - 1, y, x - 0.5, y - 0.5, x - 0.5, y + 0.5],
      [x + 1, y, x + 0.5, y - 0.5, x + 0.5, y + 0.5],
      [x, y - 1, x - 0.5, y - 0.5, x + 0.5, y - 0.5],
      [x, y + 1, x - 0.5, y + 0.5, x + 0.5, y + 0.5],
    ];
    return sides.filter(([a, b]) => !inside.has(`${a} ${b}`)).map(([, , xMin, yMin, xMax, yMax]) => ({ xMin, yMin, xMax, yMax }));
  });
}

/** Trials of two parameters as a map: the deeper the colour the higher the value; crossed out where there is none. */
export function HeatMap({ x, y, metric, cells, best, recommended = null, plateau = NONE, own, onPick, height = 400 }: HeatMapProps) {
  const xs = useMemo(() => [...new Set(cells.map((cell) => cell[0]))].sort((a, b) => a - b), [cells]);
  const ys = useMemo(() => [...new Set(cells.map((cell) => cell[1]))].sort((a, b) => a - b), [cells]);
  const values = cells.map((cell) => cell[2]).filter((value): value is number => value !== null);
  const low = values.reduce((least, value) => Math.min(least, value), Infinity);
  const high = values.reduce((most, value) => Math.max(most, value), -Infinity);
  const outline = useMemo(() => outlineOf(cells, plateau, xs, ys), [cells, plateau, xs, ys]);

  const config = useCallback(
    (colours: Colours): ChartConfiguration => {
      const at = new Map(cells.map((cell) => [`${cell[0]} ${cell[1]}`, cell]));
      const data = cells.map((cell) => ({ x: xs.indexOf(cell[0]), y: ys.indexOf(cell[1]), v: cell[2], trial: cell[3] }));
      const mark = (px: number, py: number, content: string) => ({
        type: "label" as const,
        xValue: px,
        yValue: py,
        content,
        color: colours.ink,
        font: { size: 15, weight: "bold" as const },
      });
      const bestCell = cells.find((cell) => cell[3] === best);
      const middleCell = cells.find((cell) => cell[3] === recommended);
      const ownCell = at.get(`${own.x} ${own.y}`);
      const axis = (names: number[], title: string) => ({
        type: "linear" as const,
        // the matrix's own default has the lowest value on top
        reverse: false,
        min: -0.5,
        max: names.length - 0.5,
        grid: { display: false },
        border: { display: false },
        afterBuildTicks: (scale: { ticks: { value: number }[] }) => {
          scale.ticks = names.map((_, place) => ({ value: place }));
        },
        ticks: {
          color: colours.inkSoft,
          autoSkip: true,
          autoSkipPadding: 6,
          maxRotation: 0,
          callback: (value: string | number) => decimal(names[Number(value)], Number.isInteger(names[Number(value)]) ? 0 : 2),
        },
        title: { display: true, text: title, color: colours.inkSoft },
      });
      return {
        type: "matrix" as never,
        data: {
          datasets: [
            {
              label: metric,
              data: data as never,
              width: ({ chart }: { chart: { chartArea?: { width: number } } }) =>
                ((chart.chartArea?.width ?? 300) / Math.max(1, xs.length)) * (xs.length > 40 ? 1 : 0.94),
              height: ({ chart }: { chart: { chartArea?: { height: number } } }) =>
                ((chart.chartArea?.height ?? 300) / Math.max(1, ys.length)) * (ys.length > 40 ? 1 : 0.94),
              backgroundColor: (context: { raw?: { v: number | null } }) => {
                const value = context.raw?.v;
                if (value === null || value === undefined) return colours.paper;
                const share = high === low ? 1 : (value - low) / (high - low);
                return faded(colours.river, 0.06 + 0.9 * share ** 1.3);
              },
              borderColor: (context: { raw?: { v: number | null } }) =>
                context.raw?.v === null ? faded(colours.clay, 0.5) : "transparent",
              borderWidth: 1,
            } as never,
          ],
        },
        options: {
          responsive: true,
          maintainAspectRatio: false,
          onClick: (_event, elements, chart) => {
            const element = elements[0];
            if (element) onPick((chart.data.datasets[0].data[element.index] as unknown as { trial: number }).trial);
          },
          scales: { x: axis(xs, x), y: axis(ys, y) } as never,
          plugins: {
            legend: { display: false },
            tooltip: {
              displayColors: false,
              backgroundColor: colours.sheet,
              titleColor: colours.ink,
              bodyColor: colours.ink,
              borderColor: colours.edge,
              borderWidth: 1,
              callbacks: {
                title: (items: { raw: unknown }[]) => {
                  const raw = items[0]?.raw as { x: number; y: number } | undefined;
                  return raw ? `${x} ${xs[raw.x]}, ${y} ${ys[raw.y]}` : "";
                },
                label: (item: { raw: unknown }) => {
                  const { v, trial } = item.raw as { v: number | null; trial: number };
                  const depth = plateau.get(trial);
                  const deep = depth === undefined || depth === 0 ? "" : `, ${depth} ${depth === 1 ? "step" : "steps"} inside the plateau`;
                  return `${metric}: ${decimal(v, 2)}${deep}`;
                },
              },
            },
            annotation: {
              annotations: {
                ...Object.fromEntries(
                  outline.map((side, i) => [`side${i}`, { type: "line", ...side, borderColor: colours.ink, borderWidth: 1.6 }]),
                ),
                ...(middleCell && recommended !== best ? { middle: mark(xs.indexOf(middleCell[0]), ys.indexOf(middleCell[1]), "◎") } : {}),
                ...(bestCell ? { best: mark(xs.indexOf(bestCell[0]), ys.indexOf(bestCell[1]), "✕") } : {}),
                ...(ownCell ? { own: mark(xs.indexOf(own.x), ys.indexOf(own.y), "○") } : {}),
              },
            },
          } as never,
        },
      } as ChartConfiguration;
    },
    [cells, xs, ys, best, recommended, outline, plateau, own.x, own.y, metric, x, y, low, high, onPick],
  );

  const table = () => ({
    columns: [`${y} \\ ${x}`, ...xs.map(String)],
    rows: [...ys]
      .reverse()
      .map((row) => [String(row), ...xs.map((column) => decimal(cells.find((cell) => cell[0] === column && cell[1] === row)?.[2], 2))]),
  });

  return (
    <Chart
      label={`${metric} by ${x} and ${y}`}
      config={config}
      height={height}
      table={table}
      fileName={`${metric}-${x}-${y}`}
      legend={
        <>
          <span className="whitespace-nowrap">✕ best</span>
          {recommended !== null && <span className="whitespace-nowrap">◎ the middle of the plateau, outlined</span>}
          <span className="whitespace-nowrap">○ the version</span>
          {values.length > 0 && (
            <span className="inline-flex items-center gap-1.5 whitespace-nowrap">
              <span
                aria-hidden
                className="inline-block h-3 w-16 rounded-sm"
                style={{ background: "linear-gradient(90deg, color-mix(in srgb, var(--river) 8%, transparent), var(--river))" }}
              />
              <span className="figure-text">
                {decimal(low, 2)} to {decimal(high, 2)}
              </span>
            </span>
          )}
        </>
      }
    />
  );
}
