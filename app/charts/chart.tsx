import type { Chart as ChartType, ChartConfiguration } from "chart.js";
import { Download, Table2 } from "lucide-react";
import { useCallback, useEffect, useRef, useState, type KeyboardEvent, type MutableRefObject, type ReactNode } from "react";
import { readColours, type Colours } from "./colours";
import { useBrush } from "./use-brush";

export interface ChartTable {
  columns: string[];
  rows: (string | number)[][];
}

interface ChartProps {
  label: string;
  /** builds the chart for a theme's colours; must be stable while its data is */
  config: (colours: Colours) => ChartConfiguration;
  height: number;
  /** the same data as a table */
  table: () => ChartTable;
  fileName: string;
  legend?: ReactNode;
  onKeyDown?: (event: KeyboardEvent, chart: ChartType) => void;
  /** hears a stretch of the axis along that is drawn out with the mouse */
  onBrush?: (from: number, to: number) => void;
  chartRef?: MutableRefObject<ChartType | null>;
}

/** A chart with its legend; it can be read as a table and saved as PNG. */
export function Chart({ label, config, height, table, fileName, legend, onKeyDown, onBrush, chartRef }: ChartProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const chart = useRef<ChartType | null>(null);
  const latest = useRef(config);
  latest.current = config;
  const [asTable, setAsTable] = useState(false);

  const draw = useCallback(async () => {
    const { Chart: Canvas } = await import("./setup");
    if (canvas.current === null) return;
    const next = latest.current(readColours());
    const before = chart.current;
    if (before !== null && before.canvas === canvas.current) {
      before.data = next.data;
      before.options = next.options!;
      before.update("none");
    } else {
      before?.destroy();
      chart.current = new Canvas(canvas.current, next);
    }
    canvas.current.dataset.drawn = String(Number(canvas.current.dataset.drawn ?? 0) + 1);
    if (chartRef) chartRef.current = chart.current;
  }, [chartRef]);

  useEffect(() => {
    void draw();
  }, [config, draw, asTable]);

  useEffect(() => {
    const watch = new MutationObserver(() => void draw());
    watch.observe(document.documentElement, { attributes: true, attributeFilter: ["data-theme"] });
    return () => {
      watch.disconnect();
      chart.current?.destroy();
      chart.current = null;
    };
  }, [draw]);

  const brush = useBrush(chart, onBrush);

  const save = () => {
    if (canvas.current === null) return;
    const copy = document.createElement("canvas");
    copy.width = canvas.current.width;
    copy.height = canvas.current.height;
    const context = copy.getContext("2d")!;
    context.fillStyle = readColours().sheet;
    context.fillRect(0, 0, copy.width, copy.height);
    context.drawImage(canvas.current, 0, 0);
    const link = document.createElement("a");
    link.download = `${fileName}.png`;
    link.href = copy.toDataURL("image/png");
    link.click();
  };

  return (
    <figure className="m-0">
      <div className="flex min-h-6 flex-wrap items-center gap-x-4 text-sm text-ink-soft">
        {legend}
        <span className="ml-auto flex gap-1">
          <button
            type="button"
            onClick={() => setAsTable((on) => !on)}
            aria-pressed={asTable}
            aria-label={`${label}: read as a table`}
            title="Read as a table"
            className="rounded p-1 hover:bg-shade aria-pressed:bg-shade"
          >
            <Table2 size={15} aria-hidden />
          </button>
          <button
            type="button"
            onClick={save}
            disabled={asTable}
            aria-label={`${label}: save as PNG`}
            title="Save as PNG"
            className="rounded p-1 hover:bg-shade disabled:opacity-40"
          >
            <Download size={15} aria-hidden />
          </button>
        </span>
      </div>
      {asTable ? (
        <ChartAsTable label={label} table={table()} height={height} />
      ) : (
        <div style={{ height }} className={`relative ${onBrush ? "cursor-crosshair touch-none" : ""}`} {...brush.handlers}>
          {brush.mark !== null && (
            <div
              aria-hidden
              className="pointer-events-none absolute border-x border-ochre bg-ochre/20"
              style={{ left: brush.mark.left, width: brush.mark.width, top: brush.mark.top, height: brush.mark.height }}
            />
          )}
          <canvas
            ref={canvas}
            role="img"
            aria-label={label}
            tabIndex={onKeyDown ? 0 : undefined}
            onKeyDown={onKeyDown && ((event) => chart.current && onKeyDown(event, chart.current))}
          />
        </div>
      )}
    </figure>
  );
}

function ChartAsTable({ label, table, height }: { label: string; table: ChartTable; height: number }) {
  return (
    <div style={{ height }} className="overflow-auto" tabIndex={0} role="region" aria-label={`${label}, as a table`}>
      <table className="w-full border-collapse">
        <thead className="sticky top-0 bg-sheet text-sm text-ink-soft">
          <tr>
            {table.columns.map((column) => (
              <th key={column} scope="col" className="py-1 pr-4 text-right font-normal first:text-left">
                {column}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {table.rows.map((row, i) => (
            <tr key={i} className="border-t border-edge/60">
              {row.map((cell, k) => (
                <td key={k} className="figure-text py-0.5 pr-4 text-right first:text-left">
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** One entry of a legend: a stroke and its name. */
export function Key({ colour, dashed = false, children }: { colour: string; dashed?: boolean; children: ReactNode }) {
  return (
    <span className="inline-flex items-center gap-1.5">
      <svg width="18" height="6" aria-hidden>
        <line x1="0" x2="18" y1="3" y2="3" stroke={`var(--${colour})`} strokeWidth="2" strokeDasharray={dashed ? "4 2" : undefined} />
      </svg>
      {children}
    </span>
  );
}
