import type { Criterion, WalkForward } from "./plan";
import type { WalkForwardDocument, Walker } from "./walk-forward";

export interface MapCell {
  windows: number;
  outShare: number;
  efficiency: number | null;
  profitable: number;
  largestShare: number | null;
  /** share of the criteria that it reaches */
  passed: number;
  holds: boolean;
  /** steps to the nearest cell that does not hold or lies off the map; null where neither list has steps */
  depth: number | null;
}

export interface MapDocument {
  format: "canyon.walk-forward-result/1";
  cells: MapCell[];
  recommended: { windows: number; outShare: number } | null;
}

/** A cell must lie so deep among cells that hold to be recommended: surrounded by them. */
const SURROUNDED = 2;

const reaches = (value: number | null, { least, most }: Criterion): boolean =>
  value !== null && (least === undefined || value >= least) && (most === undefined || value <= most);

/** A map of walk-forwards over the windows and shares of a plan; `onCell` hears each when it is done. */
export function walkForwardMap(
  walker: Walker,
  plan: Pick<WalkForward, "windows" | "outShare" | "criteria">,
  onCell: (cell: WalkForwardDocument) => void = () => {},
): MapDocument {
  const cells = plan.windows.flatMap((windows) =>
    plan.outShare.map((outShare): MapCell => {
      const walk = walker.walk(windows, outShare);
      onCell(walk);
      const { efficiency, profitable, largestShare } = walk;
      const reached = plan.criteria.filter((criterion) => reaches(walk[criterion.figure], criterion)).length;
      const passed = plan.criteria.length === 0 ? 1 : reached / plan.criteria.length;
      return { windows, outShare, efficiency, profitable, largestShare, passed, holds: passed === 1, depth: 0 };
    }),
  );
  return { format: "canyon.walk-forward-result/1", ...judgeMap(cells, plan.windows.length, plan.outShare.length) };
}

/** Depths of the cells (rows of windows by columns of shares), and the deepest cell of the largest region that holds. */
export function judgeMap(cells: MapCell[], rows: number, columns: number): Pick<MapDocument, "cells" | "recommended"> {
  const around = (at: number): number[] => {
    const [row, column] = [Math.floor(at / columns), at % columns];
    const out: number[] = [];
    if (rows > 1) out.push(row > 0 ? at - columns : -1, row < rows - 1 ? at + columns : -1);
    if (columns > 1) out.push(column > 0 ? at - 1 : -1, column < columns - 1 ? at + 1 : -1);
    return out;
  };
  const depth = cells.map(({ holds }) => (holds ? Infinity : 0));
  for (
    let layer = cells.flatMap(({ holds }, at) => (holds && around(at).some((other) => other < 0 || !cells[other].holds) ? [at] : [])),
      d = 1;
    layer.length > 0;
    d++
  ) {
    for (const at of layer) depth[at] = d;
    layer = [...new Set(layer.flatMap((at) => around(at).filter((other) => other >= 0 && depth[other] === Infinity)))];
  }
  const measured = rows > 1 || columns > 1;
  const out = cells.map((cell, at) => ({ ...cell, depth: measured ? depth[at] : null }));
  const region = regions(cells, around).sort((a, b) => b.length - a.length || better(cells[top(cells, a)], cells[top(cells, b)]))[0];
  if (region === undefined || !measured) return { cells: out, recommended: null };
  const deepest = [...region].sort((a, b) => depth[b] - depth[a] || better(cells[a], cells[b]))[0];
  const { windows, outShare } = cells[deepest];
  return { cells: out, recommended: depth[deepest] >= SURROUNDED ? { windows, outShare } : null };
}

const top = (cells: readonly MapCell[], region: readonly number[]): number =>
  region.reduce((best, at) => (better(cells[at], cells[best]) < 0 ? at : best));

/** Which of two cells goes first where they are alike otherwise: higher efficiency (none is lowest), fewer windows, smaller share. */
const better = (a: MapCell, b: MapCell): number => {
  const [x, y] = [a.efficiency ?? -Infinity, b.efficiency ?? -Infinity];
  return x !== y ? (x > y ? -1 : 1) : a.windows - b.windows || a.outShare - b.outShare;
};

function regions(cells: readonly MapCell[], around: (at: number) => number[]): number[][] {
  const seen = new Set<number>();
  const out: number[][] = [];
  cells.forEach(({ holds }, first) => {
    if (!holds || seen.has(first)) return;
    const region = [first];
    seen.add(first);
    for (let k = 0; k < region.length; k++)
      for (const other of around(region[k]))
        if (other >= 0 && cells[other].holds && !seen.has(other)) {
          seen.add(other);
          region.push(other);
        }
    out.push(region);
  });
  return out;
}
