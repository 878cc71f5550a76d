import type { Chart, Plugin } from "chart.js";
import type { Bars } from "#core/bars";
import type { DetailLevel } from "../../workers/detail";
import { faded, type Colours } from "./colours";

/** A trade as the price chart draws it: a span from entry to exit at the entry's level. Rows count bars. */
export interface TradeSpan {
  id: number;
  side: "long" | "short";
  entryRow: number;
  exitRow: number;
  entryPrice: number;
  exitPrice: number | null;
  net: number;
  /** written only where it is drawn: a run may have very many trades */
  label: () => string;
  stop: number | null;
  target: number | null;
}

/** A formula drawn over the prices. */
export interface Overlay {
  label: string;
  colour: keyof Colours;
  column: Float64Array;
}

/** Two points that a trader measures between: rows and prices. */
export interface Measure {
  from: { row: number; price: number };
  to: { row: number; price: number };
}

/** What changes while a chart is looked at, without the chart being made anew. */
export interface LiveMarks {
  /** row under the pointer, and the price there */
  cross: { row: number; price: number } | null;
  measure: Measure | null;
}

export interface PriceBarsOptions {
  bars: Bars;
  levels: readonly DetailLevel[];
  overlays: readonly Overlay[];
  /** rows with which a session begins, shaded alternately where they are wide enough */
  sessionStarts: readonly number[];
  live: LiveMarks;
  trades: readonly TradeSpan[];
  selected: number | null;
  colours: Colours;
  tints: readonly Tint[];
}

/** A stretch of rows with a tinted background; `mark`: the one bar that is looked at. */
export interface Tint {
  fromRow: number;
  toRow: number;
  name: string;
  mark?: boolean;
}

/** Draws bars, trades and tints straight onto the canvas: only what is in view. */
export const priceBars: Plugin<"scatter", { options?: PriceBarsOptions }> = {
  id: "priceBars",
  beforeDatasetsDraw(chart: Chart, _args, { options }) {
    if (options === undefined) return;
    const { ctx, chartArea, scales } = chart;
    const { x, y } = scales;
    const { bars, levels, overlays, sessionStarts, colours, trades, selected, tints } = options;
    const from = Math.max(0, Math.floor(x.min));
    const to = Math.min(bars.length - 1, Math.ceil(x.max));
    // not from the pixels of two rows: far outside the view the scale cuts them off
    const step = (chartArea.right - chartArea.left) / (x.max - x.min);
    ctx.save();
    ctx.beginPath();
    ctx.rect(chartArea.left, chartArea.top, chartArea.right - chartArea.left, chartArea.bottom - chartArea.top);
    ctx.clip();
    for (const tint of tints) {
      if (tint.toRow < from || tint.fromRow > to) continue;
      const left = x.getPixelForValue(tint.fromRow - 0.5);
      const right = x.getPixelForValue(tint.toRow + 0.5);
      ctx.fillStyle = tint.mark ? faded(colours.ochre, 0.35) : colours.tintIn;
      ctx.fillRect(left, chartArea.top, right - left, chartArea.bottom - chartArea.top);
      ctx.fillStyle = colours.inkSoft;
      ctx.font = "11px Figtree Variable";
      ctx.fillText(tint.name, Math.max(left, chartArea.left) + 6, chartArea.top + 14);
    }
    drawSessions(ctx, chart, sessionStarts, colours, from, to);
    for (const trade of trades)
      if (trade.exitRow >= from && trade.entryRow <= to) drawSpan(ctx, trade, trade.id === selected, chart, colours, step);
    ctx.lineWidth = 1;
    const body = step >= 3.5 ? Math.max(1, Math.floor(step * 0.32)) : 0;
    ctx.strokeStyle = step < 2.5 ? colours.inkSoft : colours.ink;
    const level = levelFor(levels, step);
    if (level !== null) drawBuckets(ctx, chart, level, from, to);
    else
      for (let row = from; row <= to; row++) {
        const at = Math.round(x.getPixelForValue(row)) + 0.5;
        ctx.beginPath();
        ctx.moveTo(at, y.getPixelForValue(bars.high[row]));
        ctx.lineTo(at, y.getPixelForValue(bars.low[row]));
        ctx.stroke();
        if (body === 0) continue;
        const open = y.getPixelForValue(bars.open[row]);
        const close = y.getPixelForValue(bars.close[row]);
        ctx.fillStyle = bars.close[row] >= bars.open[row] ? colours.paper : colours.inkSoft;
        const top = Math.min(open, close);
        const tall = Math.max(1, Math.abs(open - close));
        ctx.fillRect(at - body, top, 2 * body, tall);
        ctx.strokeRect(at - body, top, 2 * body, tall);
      }
    for (const overlay of overlays) drawColumn(ctx, chart, overlay.column, colours[overlay.colour], from, to);
    for (const trade of trades)
      if (trade.exitRow >= from && trade.entryRow <= to && (step >= 3 || trade.id === selected))
        drawLabel(ctx, trade, chart, colours, trade.id === selected);
    ctx.restore();
  },
  afterDraw(chart: Chart, _args, { options }) {
    if (options === undefined) return;
    drawCross(chart, options.live.cross, options.colours);
    drawMeasure(chart, options.live.measure, options.colours);
  },
};

/** The level of detail to draw at a width per bar; null where single bars are wide enough. */
export function levelFor(levels: readonly DetailLevel[], step: number): DetailLevel | null {
  let best: DetailLevel | null = null;
  for (const level of levels) if (level.step * step <= 1.5) best = level;
  return step < 0.75 ? best : null;
}

/** One stroke for many bars, from their lowest low to their highest high, joined where they leave a hole. */
function drawBuckets(ctx: CanvasRenderingContext2D, chart: Chart, level: DetailLevel, from: number, to: number): void {
  const { x, y } = chart.scales;
  ctx.beginPath();
  const last = Math.min(level.high.length - 1, Math.floor(to / level.step));
  let before = NaN;
  for (let k = Math.floor(from / level.step); k <= last; k++) {
    const at = x.getPixelForValue((k + 0.5) * level.step);
    const high = Math.max(level.high[k], Number.isNaN(before) ? -Infinity : before);
    const low = Math.min(level.low[k], Number.isNaN(before) ? Infinity : before);
    ctx.moveTo(at, y.getPixelForValue(high) - 0.5);
    ctx.lineTo(at, y.getPixelForValue(low) + 0.5);
    before = level.close[k];
  }
  ctx.stroke();
}

/** A column as a line over rows in view; where many rows share a pixel, their range. */
export function drawColumn(
  ctx: CanvasRenderingContext2D,
  chart: Chart,
  column: Float64Array,
  colour: string,
  from: number,
  to: number,
): void {
  const { x, y } = chart.scales;
  const every = Math.max(1, Math.floor((to - from) / Math.max(1, 2 * (chart.chartArea.right - chart.chartArea.left))));
  ctx.save();
  ctx.strokeStyle = colour;
  ctx.lineWidth = 1.5;
  ctx.beginPath();
  let pen = false;
  for (let i = from; i <= to; i += every) {
    let high = -Infinity;
    let low = Infinity;
    for (let k = i; k < Math.min(i + every, to + 1, column.length); k++) {
      if (column[k] > high) high = column[k];
      if (column[k] < low) low = column[k];
    }
    if (high === -Infinity) {
      pen = false;
      continue;
    }
    const at = x.getPixelForValue(i);
    if (pen) ctx.lineTo(at, y.getPixelForValue(high));
    else ctx.moveTo(at, y.getPixelForValue(high));
    if (low !== high) ctx.lineTo(at, y.getPixelForValue(low));
    pen = true;
  }
  ctx.stroke();
  ctx.restore();
}

/** Every other session lies on a faint shade, so that a day's bars are seen to belong together. */
function drawSessions(
  ctx: CanvasRenderingContext2D,
  chart: Chart,
  starts: readonly number[],
  colours: Colours,
  from: number,
  to: number,
): void {
  if (starts.length < 2) return;
  const { x } = chart.scales;
  const { top, bottom } = chart.chartArea;
  let low = 0;
  let high = starts.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (starts[middle] < from) low = middle + 1;
    else high = middle;
  }
  const first = Math.max(0, low - 1);
  let count = 0;
  for (let k = first; k < starts.length && starts[k] <= to; k++) count++;
  // a single session needs no telling apart, and very many would only flicker
  if (count < 2 || count > 60) return;
  ctx.fillStyle = faded(colours.edge, 0.28);
  for (let k = first; k < first + count; k++) {
    if (k % 2 === 1) continue;
    const left = x.getPixelForValue(starts[k] - 0.5);
    const right = x.getPixelForValue((starts[k + 1] ?? to + 1) - 0.5);
    ctx.fillRect(left, top, right - left, bottom - top);
  }
}

function drawCross(chart: Chart, cross: LiveMarks["cross"], colours: Colours): void {
  if (cross === null) return;
  const { ctx, chartArea, scales } = chart;
  const at = Math.round(scales.x.getPixelForValue(cross.row)) + 0.5;
  const level = Math.round(scales.y.getPixelForValue(cross.price)) + 0.5;
  ctx.save();
  ctx.strokeStyle = colours.inkFaint;
  ctx.setLineDash([2, 3]);
  ctx.beginPath();
  if (at >= chartArea.left && at <= chartArea.right) {
    ctx.moveTo(at, chartArea.top);
    ctx.lineTo(at, chartArea.bottom);
  }
  if (level >= chartArea.top && level <= chartArea.bottom) {
    ctx.moveTo(chartArea.left, level);
    ctx.lineTo(chartArea.right, level);
  }
  ctx.stroke();
  ctx.restore();
}

function drawMeasure(chart: Chart, measure: Measure | null, colours: Colours): void {
  if (measure === null) return;
  const { ctx, scales } = chart;
  const point = ({ row, price }: Measure["from"]): [number, number] => [scales.x.getPixelForValue(row), scales.y.getPixelForValue(price)];
  const [from, to] = [point(measure.from), point(measure.to)];
  ctx.save();
  ctx.strokeStyle = colours.plum;
  ctx.fillStyle = colours.plum;
  ctx.lineWidth = 1.5;
  ctx.beginPath();
  ctx.moveTo(...from);
  ctx.lineTo(...to);
  ctx.stroke();
  for (const [px, py] of [from, to]) {
    ctx.beginPath();
    ctx.arc(px, py, 3, 0, 2 * Math.PI);
    ctx.fill();
  }
  ctx.restore();
}

function drawSpan(ctx: CanvasRenderingContext2D, trade: TradeSpan, selected: boolean, chart: Chart, colours: Colours, step: number): void {
  const { x, y } = chart.scales;
  const left = x.getPixelForValue(trade.entryRow);
  const right = Math.max(left + 3, x.getPixelForValue(trade.exitRow));
  const level = y.getPixelForValue(trade.entryPrice);
  const won = trade.net >= 0;
  const colour = won ? colours.river : colours.clay;
  const tall = selected ? 8 : 6;
  ctx.lineWidth = selected ? 1.6 : 1;
  ctx.strokeStyle = colour;
  ctx.fillStyle = won ? faded(colour, selected ? 0.75 : 0.5) : faded(colours.sheet, 0.7);
  ctx.fillRect(left, level - tall / 2, right - left, tall);
  if (!won) {
    ctx.save();
    ctx.beginPath();
    ctx.rect(left, level - tall / 2, right - left, tall);
    ctx.clip();
    for (let at = left - tall; at < right; at += 4) {
      ctx.beginPath();
      ctx.moveTo(at, level + tall / 2);
      ctx.lineTo(at + tall, level - tall / 2);
      ctx.stroke();
    }
    ctx.restore();
  }
  ctx.strokeRect(left, level - tall / 2, right - left, tall);
  if (trade.exitPrice !== null) {
    const exit = y.getPixelForValue(trade.exitPrice);
    ctx.setLineDash([1.5, 2.5]);
    ctx.beginPath();
    ctx.moveTo(right, level);
    ctx.lineTo(right, exit);
    ctx.stroke();
    ctx.setLineDash([]);
    ctx.beginPath();
    ctx.arc(right, exit, 2.5, 0, 2 * Math.PI);
    ctx.fillStyle = colours.sheet;
    ctx.fill();
    ctx.stroke();
  }
  if (step < 3 && !selected) return;
  ctx.strokeStyle = colours.ink;
  for (const price of [trade.stop, trade.target]) {
    if (price === null || Number.isNaN(price)) continue;
    const at = y.getPixelForValue(price);
    ctx.setLineDash([3, 2]);
    ctx.beginPath();
    ctx.moveTo(left, at);
    ctx.lineTo(left + Math.max(12, 4 * step), at);
    ctx.stroke();
    ctx.setLineDash([]);
  }
}

function drawLabel(ctx: CanvasRenderingContext2D, trade: TradeSpan, chart: Chart, colours: Colours, selected: boolean): void {
  const { x, y } = chart.scales;
  const right = x.getPixelForValue(trade.exitRow) + 6;
  const level = y.getPixelForValue(trade.entryPrice);
  ctx.font = `${selected ? 600 : 500} 11px Figtree Variable`;
  const label = trade.label();
  const wide = ctx.measureText(label).width + 10;
  const colour = trade.net >= 0 ? colours.river : colours.clay;
  ctx.fillStyle = colours.sheet;
  ctx.strokeStyle = colour;
  ctx.lineWidth = selected ? 1.5 : 1;
  ctx.fillRect(right, level - 8, wide, 16);
  ctx.strokeRect(right, level - 8, wide, 16);
  ctx.fillStyle = colour;
  ctx.fillText(label, right + 5, level + 4);
}
