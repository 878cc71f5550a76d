import type { ScaleOptionsByType } from "chart.js";
import type { Colours } from "./colours";

const DAY = 86_400_000;
const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** Moments worth a tick between two times: every so many years, months or days, whichever makes about `wanted` of them. */
export function timeTicks(min: number, max: number, wanted = 8): number[] {
  const span = (max - min) / DAY;
  const perTick = span / wanted;
  const ticks: number[] = [];
  const from = new Date(min);
  if (perTick < 0.75) {
    const minutes = [1, 5, 15, 30, 60, 120, 180, 360, 720].find((m) => m / 1440 >= perTick) ?? 720;
    const step = minutes * 60_000;
    for (let time = Math.ceil(min / step) * step; time <= max; time += step) ticks.push(time);
  } else if (perTick > 20) {
    const months = [1, 2, 3, 6, 12, 24, 48, 60, 120].find((m) => m * 30.4 >= perTick) ?? 240;
    let index = Math.floor((from.getUTCFullYear() * 12 + from.getUTCMonth()) / months) * months;
    for (
      let time = Date.UTC(Math.floor(index / 12), index % 12, 1);
      time <= max;
      index += months, time = Date.UTC(Math.floor(index / 12), index % 12, 1)
    )
      if (time >= min) ticks.push(time);
  } else {
    const days = [1, 2, 5, 7, 14].find((d) => d >= perTick) ?? 14;
    for (let time = Math.ceil(min / DAY / days) * days * DAY; time <= max; time += days * DAY) ticks.push(time);
  }
  return ticks;
}

/** A tick's text: the year at its start, else the month, else the day. */
export function timeLabel(time: number, span: number): string {
  const date = new Date(time);
  if (span > 3 * 365 * DAY) return String(date.getUTCFullYear());
  if (time % DAY !== 0) return date.toISOString().slice(11, 16);
  if (date.getUTCDate() === 1) return date.getUTCMonth() === 0 ? `Jan ${date.getUTCFullYear()}` : MONTHS[date.getUTCMonth()];
  return `${date.getUTCDate()} ${MONTHS[date.getUTCMonth()]}`;
}

/** A time axis on a plain linear scale of epoch milliseconds. */
export function timeAxis(colours: Colours, min: number, max: number): Partial<ScaleOptionsByType<"linear">> {
  return {
    type: "linear",
    min,
    max,
    grid: { display: false },
    border: { color: colours.edge },
    afterBuildTicks: (axis: { min: number; max: number; ticks: { value: number }[] }) => {
      axis.ticks = timeTicks(axis.min, axis.max).map((value) => ({ value }));
    },
    ticks: {
      color: colours.inkSoft,
      maxRotation: 0,
      autoSkip: true,
      callback(this: { min: number; max: number }, value: string | number) {
        return timeLabel(Number(value), this.max - this.min);
      },
    },
  } as unknown as Partial<ScaleOptionsByType<"linear">>;
}
