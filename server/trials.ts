import type { Metrics, Settings } from "#core/documents";
import { METRICS } from "#core/metrics";
import {
  axesOf,
  frontOf,
  metricsRecord,
  overlapOf,
  thinRows,
  TrialTable,
  type Axis,
  type MapCell,
  type Others,
  type Overlap,
  type RowFilter,
  type Standing,
} from "#core/optimize";
import { compileStrategy } from "#core/engine";
import { histogramOf, type Bin, type Point } from "#core/reading";
import type { FinerInput, FinerOutput } from "./finer-stream";
import type { ChunkExecutor } from "./jobs/protocol";
import type { Judgement, JudgementInput, JudgementOutput } from "./judgement-stream";
import type { OptimizationView } from "./optimizations";
import type { Strategies } from "./strategies";
import { ACCOUNT_FIGURE, faultsOf } from "./trial-faults";
import type { TrialStore } from "./trial-store";

/** One trial as a row of a table. */
export interface TrialView {
  number: number;
  values: Record<string, number>;
  fit: number | null;
  /** the figures that were asked for */
  metrics: Metrics;
  /** why it is outside the limits, or has lost its account, in words; empty where there is nothing to say */
  faults: string[];
}

/** Which trials are asked for, in which order, with which figures. */
export interface TrialQuestion {
  sort: string;
  falling: boolean;
  filters: readonly RowFilter[];
  standing: Standing;
  columns: readonly string[];
}

export interface TrialPage {
  rows: TrialView[];
  /** trials that pass the filters, and all that are there */
  count: number;
  all: number;
}

/** Trials by two figures: those that are drawn, those that none beats in both, and how the first figure is spread. */
export interface Glance {
  dots: { number: number; x: number; y: number }[];
  front: { number: number; x: number; y: number }[];
  bins: Bin[];
  count: number;
}

export interface TrialMap {
  cells: MapCell[];
  /** cells' trials that lie on the plateau, with their depth; empty while it is not known, and where cells are middles of many */
  plateau: [number: number, depth: number][];
}

/** Two optimizations trial by trial. */
export interface Beside extends Omit<Overlap, "rows"> {
  /** trials that both have */
  shared: number;
  /** fits in the first and in the second, by the first's numbers */
  dots: { number: number; x: number; y: number }[];
}

/** How many tables are kept with the orders they were asked for. */
const KEPT_TABLES = 4;
const KEPT_CURVES = 60;

interface KeptTable {
  table: TrialTable;
  metrics: Set<string>;
  orders: Map<string, Uint32Array>;
  /** what was made of all rows, by what was asked */
  looks: Map<string, unknown>;
}

/** Figures that a table keeps at hand beyond those that are asked for. */
const MOST_METRICS = 16;
const KEPT_ORDERS = 10;
const KEPT_LOOKS = 12;

/** What was made before, or what is made now; the oldest goes where there are too many. */
function once<T>(held: Map<string, unknown>, name: string, most: number, make: () => T): T {
  if (!held.has(name)) {
    held.set(name, make());
    for (const old of held.keys()) if (held.size > most) held.delete(old);
  }
  return held.get(name) as T;
}

/** The results of optimizations: trials by columns, however many, and what they come to. */
export class Trials {
  private readonly axes = new Map<number, Axis[]>();
  private readonly tables = new Map<string, KeptTable>();
  private readonly judgements = new Map<number, { made: Promise<JudgementOutput>; value: JudgementOutput | null }>();
  private readonly curves = new Map<string, Promise<Point[]>>();

  constructor(
    private readonly store: TrialStore,
    private readonly strategies: Strategies,
    private readonly executor: ChunkExecutor,
  ) {}

  /** The axes of an optimization. */
  async axesOf(view: OptimizationView): Promise<Axis[]> {
    let axes = this.axes.get(view.id);
    if (axes === undefined) {
      const version = (await this.strategies.version(view.versionId))!;
      const compiled = compileStrategy(version.strategy);
      if (compiled.value === null) throw new Error(`version ${view.versionId} can't be compiled any more`);
      axes = axesOf(view.search.vary, compiled.value).axes;
      this.axes.set(view.id, axes);
    }
    return axes;
  }

  /** The table of an optimization's trials with some columns at hand. */
  private async kept(view: OptimizationView, metrics: readonly string[]): Promise<KeptTable> {
    const axes = await this.axesOf(view);
    const before = [...this.tables.entries()].find(([other]) => other.startsWith(`${view.id} `))?.[1];
    const needed = [...TrialTable.needs(view.search), ...metrics].filter((key) => key in METRICS);
    // what was asked before stays at hand, so that the table need not be made anew for every question
    const wanted = new Set([...needed, ...(before === undefined || before.metrics.size > MOST_METRICS ? [] : before.metrics)]);
    const columns = await this.store.columns(view.id, [...wanted]);
    const key = `${view.id} ${columns.numbers.length}`;
    let kept = this.tables.get(key);
    if (kept === undefined || needed.some((metric) => !kept!.metrics.has(metric)))
      kept = {
        table: new TrialTable(axes, view.search, columns.numbers, columns.combination, columns.figure),
        metrics: wanted,
        // the same trials have the same orders, whatever else is known of them
        orders: kept?.orders ?? new Map<string, Uint32Array>(),
        looks: kept?.looks ?? new Map<string, unknown>(),
      };
    for (const other of this.tables.keys()) if (other.startsWith(`${view.id} `) && other !== key) this.tables.delete(other);
    this.tables.delete(key);
    this.tables.set(key, kept);
    for (const other of this.tables.keys()) if (this.tables.size > KEPT_TABLES) this.tables.delete(other);
    return kept;
  }

  async table(view: OptimizationView, metrics: readonly string[] = []): Promise<TrialTable> {
    return (await this.kept(view, metrics)).table;
  }

  private ordered({ table, orders }: KeptTable, { sort, falling, filters, standing }: TrialQuestion): Uint32Array {
    const key = table.has(sort) ? sort : "fit";
    const name = JSON.stringify([key, falling, filters, standing]);
    return once(orders, name, KEPT_ORDERS, () => table.order(key, falling, table.passing(filters, standing)));
  }

  /** Some of the trials that were asked for, by their places in the order. */
  async page(view: OptimizationView, question: TrialQuestion, offset: number, limit: number): Promise<TrialPage> {
    const kept = await this.kept(view, [...question.columns, question.sort, ...question.filters.map(({ key }) => key), ACCOUNT_FIGURE]);
    const rows = this.ordered(kept, question);
    return {
      rows: Array.from(rows.subarray(offset, offset + limit), (row) => this.row(view, kept.table, row, question.columns)),
      count: rows.length,
      all: kept.table.count,
    };
  }

  private row(view: OptimizationView, table: TrialTable, row: number, columns: readonly string[]): TrialView {
    const fit = table.fit[row];
    const metrics = Object.fromEntries(
      columns.map((key) => {
        const value = table.column(key)[row];
        return [key, Number.isNaN(value) ? null : value];
      }),
    );
    return {
      number: table.numbers[row],
      values: table.values(row),
      fit: Number.isNaN(fit) ? null : fit,
      metrics,
      faults: faultsOf(table, row, view.settings),
    };
  }

  /** The trial with the highest fit, ties to the lower number; null while there is none inside the limits. */
  async best(view: OptimizationView, columns: readonly string[]): Promise<TrialView | null> {
    const table = await this.table(view, [...columns, ACCOUNT_FIGURE]);
    const best = table.best();
    return best === null ? null : this.row(view, table, best, columns);
  }

  /** One trial with all its figures, or null. */
  async one(view: OptimizationView, number: number): Promise<TrialView | null> {
    const table = await this.table(view, [ACCOUNT_FIGURE]);
    const row = table.rowOf(number);
    if (row < 0) return null;
    const [figures] = await this.store.figures(view.id, number, number + 1);
    return { ...this.row(view, table, row, []), metrics: metricsRecord(figures) };
  }

  /** A figure over two of the varied names. */
  async map(view: OptimizationView, x: string, y: string, key: string, others: Others): Promise<TrialMap> {
    const { table, looks } = await this.kept(view, [key]);
    const cells = once(looks, `map ${JSON.stringify([x, y, key, others])}`, KEPT_LOOKS, () => table.map(x, y, key, others));
    const judged = this.judgements.get(view.id)?.value ?? null;
    if (judged === null || others.how === "median") return { cells, plateau: [] };
    const depth = new Map(Array.from(judged.plateau, (number, i) => [number, judged.depth[i]]));
    return { cells, plateau: cells.flatMap(({ number }) => (depth.has(number) ? [[number, depth.get(number)!]] : [])) };
  }

  /** All trials inside the limits by two figures. */
  async glance(view: OptimizationView, x: string, y: string): Promise<Glance> {
    const { table, looks } = await this.kept(view, [x, y]);
    return once(looks, `glance ${x} ${y}`, KEPT_LOOKS, () => glanceOf(table, x, y));
  }

  /** Trials for lines along all axes: the best ones, and others spread evenly over the rest. Values by name, fit and figures. */
  async lines(view: OptimizationView, question: TrialQuestion, most: number): Promise<TrialView[]> {
    const kept = await this.kept(view, [...question.columns, ...question.filters.map(({ key }) => key), ACCOUNT_FIGURE]);
    const rows = this.ordered(kept, { ...question, sort: "fit", falling: true, standing: "inside" });
    const step = Math.max(1, (rows.length - most / 2) / (most / 2));
    const picked = new Set(rows.subarray(0, Math.ceil(most / 2)));
    for (let at = most / 2; at < rows.length; at += step) picked.add(rows[Math.floor(at)]);
    return Array.from(picked, (row) => this.row(view, kept.table, row, question.columns));
  }

  /** All trials by number, in parts, with every figure: for files. */
  async *everything(
    view: OptimizationView,
    size = 5000,
  ): AsyncGenerator<{ number: number; values: Record<string, number>; fit: number | null; metrics: Metrics }[]> {
    const table = await this.table(view);
    for (let from = 0; from < table.count; from += size) {
      const to = Math.min(table.count, from + size);
      // numbers may have gaps while chunks are at work
      const [first, last] = [table.numbers[from], table.numbers[to - 1]];
      const figures = await this.store.some(view.id, first, last + 1);
      yield Array.from({ length: to - from }, (_, i) => {
        const row = from + i;
        const fit = table.fit[row];
        return {
          number: table.numbers[row],
          values: table.values(row),
          fit: Number.isNaN(fit) ? null : fit,
          metrics: metricsRecord(figures[table.numbers[row] - first]!),
        };
      });
    }
  }

  /** Begins to judge a finished optimization, once; what failed is tried again. */
  private judgement(view: OptimizationView): { made: Promise<JudgementOutput>; value: JudgementOutput | null } {
    let known = this.judgements.get(view.id);
    if (known === undefined) {
      const begun = { made: this.judge(view), value: null as JudgementOutput | null };
      begun.made.then(
        (value) => (begun.value = value),
        () => this.judgements.delete(view.id),
      );
      this.judgements.set(view.id, (known = begun));
    }
    return known;
  }

  private async judge(view: OptimizationView): Promise<JudgementOutput> {
    const version = (await this.strategies.version(view.versionId))!;
    const input: JudgementInput = { optimizationId: view.id, strategy: version.strategy, settings: view.settings, search: view.search };
    return (await this.executor.run({ ...LOOK, kind: "judgement", input })) as JudgementOutput;
  }

  /** What a finished optimization comes to, with its plateau. */
  async judged(view: OptimizationView): Promise<JudgementOutput | null> {
    return view.job.state === "done" ? this.judgement(view).made : null;
  }

  /** The same, or null where it takes longer than some milliseconds; it is computed meanwhile. */
  async judgedWithin(view: OptimizationView, milliseconds: number): Promise<Judgement | null> {
    return view.job.state === "done" ? ((await within(this.judgement(view).made, milliseconds))?.judgement ?? null) : null;
  }

  /** What two optimizations have in common, with the fits of the trials that both have, thinned for drawing; null where they vary other names. */
  async beside(first: OptimizationView, second: OptimizationView): Promise<Beside | null> {
    const [one, other] = await Promise.all([this.table(first), this.table(second)]);
    const overlap = overlapOf(one, other);
    if (overlap === null) return null;
    const x = Float64Array.from(overlap.rows, ([row]) => one.fit[row]);
    const y = Float64Array.from(overlap.rows, ([, row]) => other.fit[row]);
    const { rows, ...rest } = overlap;
    return {
      ...rest,
      shared: rows.length,
      dots: thinRows(x, y).map((i) => ({ number: one.numbers[rows[i][0]], x: x[i], y: y[i] })),
    };
  }

  /** Figures of trials under other run settings, one answer a settings; computed beside the server's own thread. */
  async finer(view: OptimizationView, settings: Settings[], values: Record<string, number>[]): Promise<FinerOutput> {
    const version = (await this.strategies.version(view.versionId))!;
    const input: FinerInput = { strategy: version.strategy, search: view.search, settings, values };
    return (await this.executor.run({ ...LOOK, kind: "finer", input })) as FinerOutput;
  }

  /** The equity of trials, each under its values, thinned for drawing; computed beside the server's own thread. */
  async curvesOf(view: OptimizationView, values: readonly Readonly<Record<string, number>>[]): Promise<Point[][]> {
    const keys = values.map((one) => `${view.id} ${JSON.stringify(one)}`);
    const missing = keys.flatMap((key, i) => (this.curves.has(key) ? [] : [i]));
    if (missing.length > 0) {
      const made = this.strategies.version(view.versionId).then(async (version) => {
        const { settings, search } = view;
        const input = { strategy: version!.strategy, settings, search, values: missing.map((i) => values[i]) };
        return (await this.executor.run({ ...LOOK, kind: "trial-curves", input })) as Point[][];
      });
      missing.forEach((i, k) => {
        const one = made.then((curves) => curves[k]);
        one.catch(() => this.curves.delete(keys[i]));
        this.curves.set(keys[i], one);
      });
    }
    const found = await Promise.all(keys.map((key) => this.curves.get(key)!));
    for (const old of this.curves.keys()) if (this.curves.size > KEPT_CURVES) this.curves.delete(old);
    return found;
  }
}

function glanceOf(table: TrialTable, x: string, y: string): Glance {
  const inside = table.passing([], "inside")!;
  const [xs, ys] = [x, y].map((key) => table.column(key).map((value, row) => (inside[row] === 1 ? value : NaN)));
  const dot = (row: number) => ({ number: table.numbers[row], x: xs[row], y: ys[row] });
  const known = xs.filter((value, row) => !Number.isNaN(value) && !Number.isNaN(ys[row]));
  return {
    dots: thinRows(xs, ys).map(dot),
    front: frontOf(xs, ys, [METRICS[x].better !== "less", METRICS[y].better !== "less"]).map(dot),
    bins: histogramOf(known),
    count: known.length,
  };
}

/** What a promise gives, or null where it takes longer than some milliseconds. */
export async function within<T>(promise: Promise<T>, milliseconds: number): Promise<T | null> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<null>((resolve) => (timer = setTimeout(() => resolve(null), milliseconds)));
  try {
    return await Promise.race([promise, late]);
  } finally {
    clearTimeout(timer);
  }
}

/** What belongs to no job: a look that somebody waits for. */
export const LOOK = { jobId: 0, data: [] as string[], chunk: 0, from: 0, to: 1 };
