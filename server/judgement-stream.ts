import type { Metrics } from "#core/documents";
import {
  figuresAt,
  fragilityOf,
  laySpace,
  metricsRecord,
  Places,
  plateauOf,
  prepareRuns,
  profilesOf,
  TrialTable,
  type OptimizationInput,
  type Profile,
} from "#core/optimize";
import type { StreamWork } from "./jobs/protocol";

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
  plateau: number;
  mark: number | null;
  /** figures of the version as it stands, on the same dates */
  baseline: Metrics;
  profiles: Profile[];
  /** trials inside the limits, and all */
  inside: number;
  all: number;
}

export interface JudgementInput extends OptimizationInput {
  optimizationId: number;
}

/** The judgement, and the numbers of the plateau's trials with their depth. */
export interface JudgementOutput {
  judgement: Judgement;
  plateau: Int32Array;
  depth: Int32Array;
}

/** Judges the trials of a finished optimization beside the server's own thread, however many there are. */
export const judgementStream: StreamWork<JudgementInput, JudgementOutput> = {
  kind: "judgement",
  async stream(input, { bars, trials, trial }) {
    const { search, strategy, settings, optimizationId } = input;
    const space = laySpace(strategy, search).value;
    if (space === null) throw new Error(`optimization ${optimizationId} can't be laid any more`);
    const own = await Promise.all(settings.markets.map((market) => bars(market.bars)));
    const { numbers, combination, figure } = await trials(optimizationId, TrialTable.needs(search));
    const table = new TrialTable(space.axes, search, numbers, combination, figure);
    const places = new Places(space.axes, combination);
    const fits = Array.from(table.fit, (fit) => (Number.isNaN(fit) ? null : fit));
    const { mark, trials: plateau, depth, recommended } = plateauOf(places, fits, search.mark ?? null);
    const closely = async (number: number | null): Promise<JudgedTrial | null> =>
      number === null
        ? null
        : {
            number,
            values: table.values(number),
            metrics: metricsRecord(await trial(optimizationId, number)),
            fit: fits[number]!,
            depth: depth?.[number] ?? null,
            fragility: fragilityOf(places, fits, number),
          };
    const judgement: Judgement = {
      peak: await closely(table.best()),
      recommended: await closely(recommended),
      plateau: plateau.length,
      mark,
      baseline: metricsRecord(figuresAt(space.compiled, prepareRuns(space.compiled, input, own), search)),
      profiles: profilesOf(space.axes, combination, fits),
      inside: fits.reduce((sum: number, fit) => sum + (fit === null ? 0 : 1), 0),
      all: fits.length,
    };
    return {
      judgement,
      plateau: Int32Array.from(plateau),
      depth: Int32Array.from(plateau, (number) => depth?.[number] ?? 0),
    };
  },
};
