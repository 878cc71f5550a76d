import type { MapCell } from "#core/walk-forward";

/** A curve over the dates of its drawing; null where it has no value. */
export interface DrawnCurve {
  name: string;
  values: (number | null)[];
  role: "main" | "second" | "member";
}

/** Drawings of probes, as plain values; what draws them is the interface's matter. */
export type Drawing =
  /** equity over dates (days since 1970); `stretches` are tinted */
  | {
      kind: "curves";
      title: string;
      dates: number[];
      curves: DrawnCurve[];
      stretches: { name: string; from: string; to: string; tint: boolean }[];
    }
  /** how a figure is spread over many runs, with the real one */
  | {
      kind: "spread";
      title: string;
      metric: string | null;
      unit: "money" | "percent" | "ratio" | "count";
      values: number[];
      marks: { name: string; value: number }[];
    }
  /** a figure along a scale */
  | { kind: "ladder"; title: string; across: string; up: string; x: number[]; y: (number | null)[]; marks: { name: string; at: number }[] }
  /** what shares of many curves stay above, step by step */
  | { kind: "fan"; title: string; across: string; x: number[]; bands: { percent: number; values: number[] }[]; real: number[] }
  /** what so many percent of the runs reach, by metric */
  | { kind: "confidence"; runs: number; percents: number[]; rows: { metric: string; real: number | null; values: (number | null)[] }[] }
  /** windows of a walk-forward with what each fit chose */
  | {
      kind: "walk";
      windows: {
        fit: { from: string; to: string };
        judge: { from: string; to: string };
        values: Record<string, number | boolean> | null;
        in: number | null;
        out: number;
      }[];
      names: string[];
      stitched: { dates: number[]; equity: number[] };
      fixed: { dates: number[]; equity: number[] };
      nextRefit: string;
      next: Record<string, number | boolean> | null;
      steadiness: Record<string, number>;
    }
  | { kind: "map"; windows: number[]; outShare: number[]; cells: MapCell[]; recommended: { windows: number; outShare: number } | null };
