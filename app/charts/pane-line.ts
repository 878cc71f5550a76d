import type { Chart, Plugin } from "chart.js";
import { drawColumn } from "./price-bars";

/** Draws a column over rows in view, whatever its length. */
export const paneLine: Plugin<"scatter", { options?: { column: Float64Array; colour: string } }> = {
  id: "paneLine",
  beforeDatasetsDraw(chart: Chart, _args, { options }) {
    if (options === undefined) return;
    const { ctx, chartArea, scales } = chart;
    ctx.save();
    ctx.beginPath();
    ctx.rect(chartArea.left, chartArea.top, chartArea.right - chartArea.left, chartArea.bottom - chartArea.top);
    ctx.clip();
    const from = Math.max(0, Math.floor(scales.x.min));
    const to = Math.min(options.column.length - 1, Math.ceil(scales.x.max));
    drawColumn(ctx, chart, options.column, options.colour, from, to);
    ctx.restore();
  },
};
