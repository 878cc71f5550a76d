import { median, METRICS } from "#core/metrics";
import { orderOf } from "#core/reading";
import { fitColumn } from "./fits";
import type { Limit, Search } from "./plan";
import { valuesOf, type Axis } from "./values";

/** Rows whose figure (or value of a varied name, or fit) lies within bounds; those without one do not. */
export interface RowFilter {
  key: string;
  least: number | null;
  most: number | null;
}

export type Standing = "all" | "inside" | "outside";

/** One cell of a map over two names. */
export interface MapCell {
  x: number;
  y: number;
  value: number | null;
  /** the trial with the best fit in the cell, else its first; none where the cell has no trial */
  number: number;
  count: number;
}

/** How a map over two names takes the others: those at one place, the trial with the best fit, or the middle of all. */
export type Others = { how: "fixed"; at: Readonly<Record<string, number>> } | { how: "best" } | { how: "median" };

/**
 * Trials as columns, however many: sorted, filtered and cut without making a row of any but those that are shown. A row is
 * a place in the columns; trials that are not there yet have none.
 */
export class TrialTable {
  readonly count: number;
  private readonly held = new Map<string, Float64Array>();

  /** `figure` gives one figure of all rows, NaN where it has no value. */
  constructor(
    readonly axes: readonly Axis[],
    private readonly search: Pick<Search, "objective" | "limits">,
    readonly numbers: ArrayLike<number>,
    readonly combinations: ArrayLike<number>,
    private readonly figure: (metric: string) => Float64Array,
  ) {
    this.count = numbers.length;
  }

  /** Figures that fits and standings rest on, whatever is asked. */
  static needs({ objective, limits }: Pick<Search, "objective" | "limits">): string[] {
    return [...new Set([...objective, ...limits].map(({ metric }) => metric))];
  }

  private once(key: string, make: () => Float64Array): Float64Array {
    let column = this.held.get(key);
    if (column === undefined) this.held.set(key, (column = make()));
    return column;
  }

  /** NaN for trials outside. */
  get fit(): Float64Array {
    return this.once("fit", () => fitColumn(this.count, this.figure, this.search.objective, this.search.limits));
  }

  /** A column by its key: number, fit, a varied name or a metric. */
  column(key: string): Float64Array {
    if (key === "fit") return this.fit;
    if (key === "number") return this.once(key, () => Float64Array.from(this.numbers));
    const a = this.axes.findIndex(({ name }) => name === key);
    if (a < 0) return this.figure(key);
    return this.once(`=${key}`, () => {
      const stride = this.axes.slice(a + 1).reduce((product, axis) => product * axis.values.length, 1);
      const { values } = this.axes[a];
      return Float64Array.from({ length: this.count }, (_, i) => values[Math.floor(this.combinations[i] / stride) % values.length]);
    });
  }

  /** Whether a key names a column. */
  has(key: string): boolean {
    return key === "fit" || key === "number" || key in METRICS || this.axes.some(({ name }) => name === key);
  }

  /** Values by name of a row. */
  values(row: number): Record<string, number> {
    return valuesOf(this.axes, this.combinations[row]);
  }

  /** The row of a trial, or −1. */
  rowOf(number: number): number {
    let [low, high] = [0, this.count - 1];
    while (low <= high) {
      const middle = (low + high) >> 1;
      if (this.numbers[middle] === number) return middle;
      if (this.numbers[middle] < number) low = middle + 1;
      else high = middle - 1;
    }
    return -1;
  }

  /** One entry a row: whether it passes. Null: all do. */
  passing(filters: readonly RowFilter[], standing: Standing = "all"): Uint8Array | null {
    if (filters.length === 0 && standing === "all") return null;
    const out = new Uint8Array(this.count).fill(1);
    if (standing !== "all") {
      const { fit } = this;
      for (let i = 0; i < this.count; i++) if (Number.isNaN(fit[i]) === (standing === "inside")) out[i] = 0;
    }
    for (const { key, least, most } of filters) {
      const column = this.column(key);
      const [low, high] = [least ?? -Infinity, most ?? Infinity];
      for (let i = 0; i < this.count; i++) if (!(column[i] >= low && column[i] <= high)) out[i] = 0;
    }
    return out;
  }

  /** Rows that pass, by a column; ties by number, those without a value last. */
  order(key: string, falling: boolean, passing: Uint8Array | null): Uint32Array {
    const all = orderOf(this.column(key), falling);
    return passing === null ? all : all.filter((row) => passing[row] === 1);
  }

  /** The row with the best fit, ties to the lower number; null while none is inside. */
  best(passing: Uint8Array | null = null): number | null {
    const { fit } = this;
    let best: number | null = null;
    for (let i = 0; i < this.count; i++)
      if (!Number.isNaN(fit[i]) && (passing === null || passing[i] === 1) && (best === null || fit[i] > fit[best])) best = i;
    return best;
  }

  /** Limits that a row breaks, and objectives that it has no value for. */
  broken(row: number): (Limit | { metric: string; lacks: true })[] {
    const { objective, limits } = this.search;
    return [
      ...limits.filter(({ metric, least = -Infinity, most = Infinity }) => {
        const x = this.figure(metric)[row];
        return !(x >= least && x <= most);
      }),
      ...objective
        .filter(({ metric }) => Number.isNaN(this.figure(metric)[row]) && !limits.some((limit) => limit.metric === metric))
        .map(({ metric }) => ({ metric, lacks: true as const })),
    ];
  }

  /** A figure over two names, cell by cell in the order of x, then y. */
  map(x: string, y: string, key: string, others: Others): MapCell[] {
    const [ax, ay] = [x, y].map((name) => this.axes.findIndex((axis) => axis.name === name));
    const [xs, ys] = [this.axes[ax].values, this.axes[ay].values];
    const strides = this.axes.map((_, a) => this.axes.slice(a + 1).reduce((product, axis) => product * axis.values.length, 1));
    const fixed =
      others.how !== "fixed"
        ? []
        : this.axes.flatMap((axis, a) => (a === ax || a === ay ? [] : [[a, axis.values.indexOf(others.at[axis.name])] as const]));
    const values = this.column(key);
    const { fit } = this;
    const best = new Int32Array(xs.length * ys.length).fill(-1);
    const members: number[][] | null = others.how === "median" ? Array.from(best, () => []) : null;
    const counts = new Uint32Array(best.length);
    const place = (row: number, a: number) => Math.floor(this.combinations[row] / strides[a]) % this.axes[a].values.length;
    for (let row = 0; row < this.count; row++) {
      if (fixed.some(([a, at]) => place(row, a) !== at)) continue;
      const cell = place(row, ax) * ys.length + place(row, ay);
      counts[cell]++;
      if (members !== null && !Number.isNaN(values[row])) members[cell].push(values[row]);
      const top = best[cell];
      if (top < 0 || fit[row] > fit[top] || (Number.isNaN(fit[top]) && !Number.isNaN(fit[row]))) best[cell] = row;
    }
    const cells: MapCell[] = [];
    best.forEach((row, cell) => {
      if (row < 0) return;
      const value = members === null ? values[row] : members[cell].length === 0 ? NaN : median(members[cell]);
      cells.push({
        x: xs[Math.floor(cell / ys.length)],
        y: ys[cell % ys.length],
        value: Number.isNaN(value) ? null : value,
        number: this.numbers[row],
        count: counts[cell],
      });
    });
    return cells;
  }
}
