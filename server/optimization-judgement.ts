import { and, asc, eq } from "drizzle-orm";
import type { Bars } from "#core/bars";
import type { Metrics } from "#core/documents";
import { bestOf, fragilityOf, laySpace, Places, plateauOf, profilesOf, type Axis, type Profile } from "#core/optimize";
import { backtest } from "#core/runs";
import type { Database } from "./db/open";
import { trials } from "./db/schema";
import type { OptimizationView } from "./optimizations";
import type { VersionView } from "./strategies";

/** A trial that is looked at closely. */
export interface JudgedTrial {
  number: number;
  values: Record<string, number>;
  metrics: Metrics;
  fit: number;
  /** steps to the plateau's edge, 0 off it; null where nothing has steps */
  depth: number | null;
  fragility: number | null;
}

/** What a finished optimization comes to. */
export interface Judgement {
  peak: JudgedTrial | null;
  recommended: JudgedTrial | null;
  /** trials of the plateau, and the fit from which on a trial may belong to it */
  plateau: number[];
  mark: number | null;
  /** figures of the version as it stands, on the same dates */
  baseline: Metrics;
  profiles: Profile[];
  /** trials inside the limits, and all */
  inside: number;
  all: number;
}

/** The combination of a trial's values; the values are those of the axes to the last bit. */
export function combinationOf(axes: readonly Axis[], values: Readonly<Record<string, number>>): number {
  return axes.reduce((sum, axis) => sum * axis.values.length + axis.values.indexOf(values[axis.name]), 0);
}

/** Judges the trials of a finished optimization. `bars` in the order of its settings' markets. */
export async function judgeOptimization(
  db: Database,
  view: OptimizationView,
  version: VersionView,
  bars: readonly Bars[],
): Promise<Judgement> {
  const space = laySpace(version.strategy, view.search).value;
  const { result } = backtest(version.strategy, view.settings, bars);
  if (space === null || result === null) throw new Error(`optimization ${view.id} can't be laid any more`);
  const rows = await db
    .select({ values: trials.values, fit: trials.fit })
    .from(trials)
    .where(eq(trials.optimizationId, view.id))
    .orderBy(asc(trials.number));
  const values = rows.map((row) => JSON.parse(row.values) as Record<string, number>);
  const fits = rows.map((row) => row.fit);
  const combinations = values.map((one) => combinationOf(space.axes, one));
  const places = new Places(space.axes, combinations);
  const plateau = plateauOf(places, fits, view.search.mark ?? null);
  const best = bestOf(fits);
  const closely = async (number: number | null): Promise<JudgedTrial | null> => {
    if (number === null) return null;
    const [found] = await db
      .select({ metrics: trials.metrics })
      .from(trials)
      .where(and(eq(trials.optimizationId, view.id), eq(trials.number, number)));
    return {
      number,
      values: values[number],
      metrics: JSON.parse(found.metrics) as Metrics,
      fit: fits[number]!,
      depth: plateau.depth?.[number] ?? null,
      fragility: fragilityOf(places, fits, number),
    };
  };
  return {
    peak: await closely(best),
    recommended: await closely(plateau.recommended),
    plateau: plateau.trials,
    mark: plateau.mark,
    baseline: result.metrics.all,
    profiles: profilesOf(space.axes, combinations, fits),
    inside: fits.filter((fit) => fit !== null).length,
    all: fits.length,
  };
}
