import type { Chart as ChartType, ChartConfiguration } from "chart.js";
import { useCallback, useEffect, useMemo, useRef, type KeyboardEvent, type ReactNode } from "react";
import { firstAtOrAfter, type Bars } from "#core/bars";
import { dateText, price } from "~/design/format";
import { Chart } from "./chart";
import { faded, type Colours } from "./colours";
import type { TradeSpan } from "./price-bars";
import { timeLabel, timeTicks } from "./time-axis";

interface PriceChartProps {
  symbol: string;
  bars: Bars;
  tick: number;
  trades?: readonly TradeSpan[];
  selected?: number | null;
  tints?: readonly { fromRow: number; toRow: number; name: string }[];
  height?: number;
  /** rows in view at first; the last 180 where left out */
  view?: [number, number];
  legend?: ReactNode;
}

/** Range of prices between two rows, with a little air. */
function priceRange(bars: Bars, from: number, to: number): [number, number] {
  let low = Infinity;
  let high = -Infinity;
  for (let i = Math.max(0, Math.floor(from)); i <= Math.min(bars.length - 1, Math.ceil(to)); i++) {
    if (bars.low[i] < low) low = bars.low[i];
    if (bars.high[i] > high) high = bars.high[i];
  }
  const air = (high - low) * 0.06 || 1;
  return [low - air, high + air];
}

/** Bars of a market with trades as layers. Wheel and keys zoom, dragging and arrows pan. */
export function PriceChart({ symbol, bars, tick, trades = [], selected = null, tints = [], height = 420, view, legend }: PriceChartProps) {
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

  const fit = useCallback(
    (target: ChartType) => {
      const { min, max } = target.scales.x;
      window.current = [min, max];
      const [low, high] = priceRange(bars, min, max);
      target.options.scales!.y!.min = low;
      target.options.scales!.y!.max = high;
      target.update("none");
    },
    [bars],
  );

  const config = useCallback(
    (colours: Colours): ChartConfiguration => {
      const [left, right] = window.current;
      const [low, high] = priceRange(bars, left, right);
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
                axis.ticks = timeTicks(first, last).map((time) => ({ value: firstAtOrAfter(bars.time, time), time }));
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
              pan: { enabled: true, mode: "x", onPan: ({ chart: target }: { chart: ChartType }) => fit(target) },
              zoom: {
                wheel: { enabled: true, speed: 0.12 },
                pinch: { enabled: true },
                mode: "x",
                onZoom: ({ chart: target }: { chart: ChartType }) => fit(target),
              },
            },
            priceBars: { options: { bars, trades, selected, colours, tints } },
          },
        },
      } as unknown as ChartConfiguration;
    },
    [bars, trades, selected, tints, tick, symbol, fit],
  );

  useEffect(() => {
    if (chart.current !== null && view !== undefined) {
      chart.current.options.scales!.x!.min = from;
      chart.current.options.scales!.x!.max = to;
      chart.current.update("none");
      fit(chart.current);
    }
  }, [from, to, view, fit]);

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

  return (
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
}
