import type { Chart } from "chart.js";
import { useRef, useState, type MutableRefObject, type PointerEvent } from "react";

interface Mark {
  left: number;
  width: number;
  top: number;
  height: number;
}

/** Fewer pixels are a click and no stretch. */
const LEAST = 4;

/** Draws a stretch out of a chart's axis along with the mouse, and tells its two ends when the button is let go. */
export function useBrush(chart: MutableRefObject<Chart | null>, onBrush: ((from: number, to: number) => void) | undefined) {
  const start = useRef<number | null>(null);
  const [mark, setMark] = useState<Mark | null>(null);
  if (onBrush === undefined) return { mark: null, handlers: {} };
  const place = (event: PointerEvent<HTMLElement>): number | null => {
    if (chart.current === null) return null;
    const { left, right } = chart.current.chartArea;
    const x = event.clientX - event.currentTarget.getBoundingClientRect().left;
    return Math.min(right, Math.max(left, x));
  };
  const drop = () => {
    start.current = null;
    setMark(null);
  };
  const handlers = {
    onPointerDown: (event: PointerEvent<HTMLElement>) => {
      if (event.button !== 0) return;
      start.current = place(event);
      event.currentTarget.setPointerCapture(event.pointerId);
    },
    onPointerMove: (event: PointerEvent<HTMLElement>) => {
      const x = place(event);
      if (start.current === null || x === null) return;
      const { top, bottom } = chart.current!.chartArea;
      // the lower pane of a stack of axes lies below the area of the first one
      const height = Math.max(bottom, ...Object.values(chart.current!.scales).map((scale) => scale.bottom)) - top;
      setMark({ left: Math.min(start.current, x), width: Math.abs(x - start.current), top, height });
    },
    onPointerUp: (event: PointerEvent<HTMLElement>) => {
      const x = place(event);
      if (start.current !== null && x !== null && Math.abs(x - start.current) >= LEAST) {
        const ends = [start.current, x].sort((a, b) => a - b).map((pixel) => chart.current!.scales.x.getValueForPixel(pixel)!);
        onBrush(ends[0], ends[1]);
      }
      drop();
    },
    onPointerCancel: drop,
  };
  return { mark, handlers };
}
