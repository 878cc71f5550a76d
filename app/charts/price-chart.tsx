import type { Chart as ChartType, ChartConfiguration } from "chart.js";
import { useCallback, useEffect, useMemo, useRef, type KeyboardEvent, type PointerEvent, type ReactNode } from "react";
import { firstAtOrAfter, type Bars } from "#core/bars";
import { dateText, price } from "~/design/format";
import { Chart } from "./chart";
import { faded, type Colours } from "./colours";
import type { DetailLevel } from "../../workers/detail";
import type { LiveMarks, Measure, Overlay, Tint, TradeSpan } from "./price-bars";
import { timeLabel, timeTicks } from "./time-axis";

interface PriceChartProps {
  symbol: string;
  bars: Bars;
  tick: number;
  trades?: readonly TradeSpan[];
  selected?: number | null;
  tints?: readonly Tint[];
  height?: number;
  /** rows in view at first; the last 180 where left out */
  view?: [number, number];
  legend?: ReactNode;
  levels?: readonly DetailLevel[];
  overlays?: readonly Overlay[];
  sessionStarts?: readonly number[];
  /** hears the rows in view whenever they change */
  onWindow?: (from: number, to: number) => void;
  /** hears the row under the pointer and the price there; null when it leaves */
  onCross?: (cross: LiveMarks["cross"]) => void;
  /** hears what is measured by dragging with Shift held */
  onMeasure?: (measure: Measure | null) => void;
}

const NO_LEVELS: readonly DetailLevel[] = [];
const NO_OVERLAYS: readonly Overlay[] = [];
const NO_ROWS: readonly number[] = [];

/** Range of prices between two rows, with a little air; over many rows the levels of detail answer. */
function priceRange(bars: Bars, levels: readonly DetailLevel[], overlays: readonly Overlay[], from: number, to: number): [number, number] {
  let low = Infinity;
  let high = -Infinity;
  const first = Math.max(0, Math.floor(from));
  const last = Math.min(bars.length - 1, Math.ceil(to));
  let source: { high: Float64Array; low: Float64Array; step: number } = { high: bars.high, low: bars.low, step: 1 };
  for (const level of levels) if ((last - first) / level.step > 1000) source = level;
  for (let k = Math.floor(first / source.step); k <= Math.floor(last / source.step); k++) {
    if (source.low[k] < low) low = source.low[k];
    if (source.high[k] > high) high = source.high[k];
  }
  if (last - first < 5000)
    for (const { column } of overlays)
      for (let i = first; i <= last; i++) {
        if (column[i] < low) low = column[i];
        if (column[i] > high) high = column[i];
      }
  const air = (high - low) * 0.06 || 1;
  return [low - air, high + air];
}

/** Bars of a market with trades as layers. Wheel and keys zoom, dragging and arrows pan. */
export function PriceChart({
  symbol,
  bars,
  tick,
  trades = [],
  selected = null,
  tints = [],
  height = 420,
  view,
  legend,
  levels = NO_LEVELS,
  overlays = NO_OVERLAYS,
  sessionStarts = NO_ROWS,
  onWindow,
  onCross,
  onMeasure,
}: PriceChartProps) {
  const chart = useRef<ChartType | null>(null);
  const from = view?.[0] ?? Math.max(0, bars.length - 180);
  const to = view?.[1] ?? bars.length + 3;
  const window = useRef<[number, number]>([from, to]);
  const given = `${symbol} ${from} ${to}`;
  const before = useRef("");
  if (before.current !== given) {
    before.current = given;
    window.current = [from, to];
  }

  const live = useRef<LiveMarks>({ cross: null, measure: null });
  const heard = useRef({ onWindow, onCross, onMeasure });
  heard.current = { onWindow, onCross, onMeasure };

  const fit = useCallback(
    (target: ChartType) => {
      const { min, max } = target.scales.x;
      window.current = [min, max];
      heard.current.onWindow?.(min, max);
      const [low, high] = priceRange(bars, levels, overlays, min, max);
      target.options.scales!.y!.min = low;
      target.options.scales!.y!.max = high;
      target.update("none");
    },
    [bars, levels, overlays],
  );

  const config = useCallback(
    (colours: Colours): ChartConfiguration => {
      const [left, right] = window.current;
      const [low, high] = priceRange(bars, levels, overlays, left, right);
      return {
        type: "scatter",
        data: { datasets: [{ type: "scatter", label: symbol, data: [], pointRadius: 0 }] },
        options: {
          responsive: true,
          maintainAspectRatio: false,
          events: ["mousemove", "mouseout"],
          scales: {
            x: {
              type: "linear",
              min: left,
              max: right,
              grid: { display: false },
              border: { color: colours.edge },
              afterBuildTicks: (axis: { min: number; max: number; ticks: { value: number; time?: number }[] }) => {
                const first = bars.time[Math.max(0, Math.floor(axis.min))] ?? bars.time[0];
                const last = bars.time[Math.min(bars.length - 1, Math.ceil(axis.max))];
                // a moment without a bar falls on the next one, and two of them may fall on the same
                axis.ticks = timeTicks(first, last)
                  .map((time) => ({ value: firstAtOrAfter(bars.time, time), time }))
                  .filter((tick, i, all) => i === 0 || tick.value > all[i - 1].value);
              },
              ticks: {
                color: colours.inkSoft,
                maxRotation: 0,
                callback(_value: string | number, index: number, ticks: { time?: number }[]) {
                  return timeLabel(ticks[index].time ?? 0, (ticks.at(-1)?.time ?? 0) - (ticks[0].time ?? 0));
                },
              },
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
                maxTicksLimit: 7,
                includeBounds: false,
                callback: (value: string | number) => price(Math.round(Number(value) / tick) * tick, tick),
              },
            },
          },
          plugins: {
            legend: { display: false },
            tooltip: { enabled: false },
            zoom: {
              limits: { x: { min: -5, max: bars.length + 20, minRange: 15 } },
              pan: {
                enabled: true,
                mode: "x",
                // with Shift held, dragging measures
                onPanStart: ({ event }: { event: { srcEvent: MouseEvent } }) => !event.srcEvent.shiftKey,
                onPan: ({ chart: target }: { chart: ChartType }) => fit(target),
              },
              zoom: {
                wheel: { enabled: true, speed: 0.12 },
                pinch: { enabled: true },
                mode: "x",
                onZoom: ({ chart: target }: { chart: ChartType }) => fit(target),
              },
            },
            priceBars: { options: { bars, levels, overlays, sessionStarts, live: live.current, trades, selected, colours, tints } },
          },
        },
      } as unknown as ChartConfiguration;
    },
    [bars, levels, overlays, sessionStarts, trades, selected, tints, tick, symbol, fit],
  );

  useEffect(() => {
    if (chart.current !== null && view !== undefined) {
      chart.current.options.scales!.x!.min = from;
      chart.current.options.scales!.x!.max = to;
      chart.current.update("none");
      fit(chart.current);
    }
  }, [from, to, view, fit]);

  const place = (event: PointerEvent<HTMLElement>): LiveMarks["cross"] => {
    const target = chart.current;
    if (target === null || target.chartArea === undefined) return null;
    const box = target.canvas.getBoundingClientRect();
    const [px, py] = [event.clientX - box.left, event.clientY - box.top];
    const { left, right, top, bottom } = target.chartArea;
    if (px < left || px > right || py < top || py > bottom) return null;
    const row = Math.max(0, Math.min(bars.length - 1, Math.round(target.scales.x.getValueForPixel(px)!)));
    return { row, price: target.scales.y.getValueForPixel(py)! };
  };
  const measuring = useRef(false);
  const pointer = {
    onPointerMove: (event: PointerEvent<HTMLElement>) => {
      const cross = place(event);
      live.current.cross = cross;
      if (measuring.current && cross !== null && live.current.measure !== null) {
        live.current.measure = { ...live.current.measure, to: cross };
        onMeasure?.(live.current.measure);
      }
      chart.current?.draw();
      onCross?.(cross);
    },
    onPointerDown: (event: PointerEvent<HTMLElement>) => {
      const cross = place(event);
      measuring.current = event.shiftKey && cross !== null;
      live.current.measure = measuring.current ? { from: cross!, to: cross! } : null;
      onMeasure?.(live.current.measure);
    },
    onPointerUp: () => {
      measuring.current = false;
    },
    onPointerLeave: () => {
      live.current.cross = null;
      chart.current?.draw();
      onCross?.(null);
    },
  };

  const keys = (event: KeyboardEvent, target: ChartType) => {
    const { min, max } = target.scales.x;
    const span = max - min;
    const move = (left: number, right: number) => {
      event.preventDefault();
      target.options.scales!.x!.min = left;
      target.options.scales!.x!.max = right;
      target.update("none");
      fit(target);
    };
    if (event.key === "ArrowLeft") move(Math.max(-5, min - span / 5), Math.max(-5 + span, max - span / 5));
    if (event.key === "ArrowRight") move(Math.min(bars.length + 20 - span, min + span / 5), Math.min(bars.length + 20, max + span / 5));
    if (event.key === "+" || event.key === "=") move(min + span / 6, max - span / 6);
    if (event.key === "-") move(Math.max(-5, min - span / 4), Math.min(bars.length + 20, max + span / 4));
    if (event.key === "Home") move(-2, span - 2);
    if (event.key === "End") move(bars.length + 3 - span, bars.length + 3);
  };

  const table = useMemo(
    () => () => {
      const [left, right] = window.current;
      const rows: (string | number)[][] = [];
      for (let i = Math.max(0, Math.floor(left)); i <= Math.min(bars.length - 1, Math.ceil(right)) && rows.length < 2000; i++)
        rows.push([
          dateText(bars.time[i]),
          ...[bars.open, bars.high, bars.low, bars.close].map((column) => price(column[i], tick)),
          bars.volume[i],
        ]);
      return { columns: ["date", "open", "high", "low", "close", "volume"], rows };
    },
    [bars, tick],
  );

  const chartElement = (
    <Chart
      label={`Prices of ${symbol}. Arrow keys pan, plus and minus zoom`}
      config={config}
      height={height}
      table={table}
      fileName={`${symbol}-prices`}
      legend={legend}
      onKeyDown={keys}
      chartRef={chart}
    />
  );
  // only where somebody listens: elsewhere the chart stays as light as it was
  return onCross === undefined ? chartElement : <div {...pointer}>{chartElement}</div>;
}
