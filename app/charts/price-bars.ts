import type { Chart, Plugin } from "chart.js";
import type { Bars } from "#core/bars";
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
  label: string;
  stop: number | null;
  target: number | null;
}

export interface PriceBarsOptions {
  bars: Bars;
  trades: readonly TradeSpan[];
  selected: number | null;
  colours: Colours;
  tints: readonly { fromRow: number; toRow: number; name: string }[];
}

/** Draws bars, trades and tints straight onto the canvas: only what is in view. */
export const priceBars: Plugin<"scatter", { options?: PriceBarsOptions }> = {
  id: "priceBars",
  beforeDatasetsDraw(chart: Chart, _args, { options }) {
    if (options === undefined) return;
    const { ctx, chartArea, scales } = chart;
    const { x, y } = scales;
    const { bars, colours, trades, selected, tints } = options;
    const from = Math.max(0, Math.floor(x.min));
    const to = Math.min(bars.length - 1, Math.ceil(x.max));
    const step = Math.abs(x.getPixelForValue(1) - x.getPixelForValue(0));
    ctx.save();
    ctx.beginPath();
    ctx.rect(chartArea.left, chartArea.top, chartArea.right - chartArea.left, chartArea.bottom - chartArea.top);
    ctx.clip();
    for (const tint of tints) {
      const left = x.getPixelForValue(tint.fromRow - 0.5);
      const right = x.getPixelForValue(tint.toRow + 0.5);
      ctx.fillStyle = colours.tintIn;
      ctx.fillRect(left, chartArea.top, right - left, chartArea.bottom - chartArea.top);
      ctx.fillStyle = colours.inkSoft;
      ctx.font = "11px Figtree Variable";
      ctx.fillText(tint.name, Math.max(left, chartArea.left) + 6, chartArea.top + 14);
    }
    for (const trade of trades)
      if (trade.exitRow >= from && trade.entryRow <= to) drawSpan(ctx, trade, trade.id === selected, chart, colours, step);
    ctx.lineWidth = 1;
    const body = step >= 3.5 ? Math.max(1, Math.floor(step * 0.32)) : 0;
    const skip = Math.max(1, Math.floor(0.75 / step));
    ctx.strokeStyle = step < 2.5 ? colours.inkSoft : colours.ink;
    for (let start = from; start <= to; start += skip) {
      let high = -Infinity;
      let low = Infinity;
      for (let i = start; i < Math.min(start + skip, to + 1); i++) {
        if (bars.high[i] > high) high = bars.high[i];
        if (bars.low[i] < low) low = bars.low[i];
      }
      const at = Math.round(x.getPixelForValue(start)) + 0.5;
      ctx.beginPath();
      ctx.moveTo(at, y.getPixelForValue(high));
      ctx.lineTo(at, y.getPixelForValue(low));
      ctx.stroke();
      if (body === 0) continue;
      const open = y.getPixelForValue(bars.open[start]);
      const close = y.getPixelForValue(bars.close[start]);
      ctx.fillStyle = bars.close[start] >= bars.open[start] ? colours.paper : colours.inkSoft;
      const top = Math.min(open, close);
      const tall = Math.max(1, Math.abs(open - close));
      ctx.fillRect(at - body, top, 2 * body, tall);
      ctx.strokeRect(at - body, top, 2 * body, tall);
    }
    for (const trade of trades)
      if (trade.exitRow >= from && trade.entryRow <= to && (step >= 3 || trade.id === selected))
        drawLabel(ctx, trade, chart, colours, trade.id === selected);
    ctx.restore();
  },
};

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
  const wide = ctx.measureText(trade.label).width + 10;
  const colour = trade.net >= 0 ? colours.river : colours.clay;
  ctx.fillStyle = colours.sheet;
  ctx.strokeStyle = colour;
  ctx.lineWidth = selected ? 1.5 : 1;
  ctx.fillRect(right, level - 8, wide, 16);
  ctx.strokeRect(right, level - 8, wide, 16);
  ctx.fillStyle = colour;
  ctx.fillText(trade.label, right + 5, level + 4);
}
