import type { Bars } from "#core/bars";
import type { DocumentProblem, Metrics, Settings, Strategy } from "#core/documents";
import { outOfSample } from "./out-of-sample";

/** What every probe is given. `bars` are in the order of the settings' markets. */
export interface ProbeContext {
  strategy: Strategy;
  settings: Settings;
  bars: readonly Bars[];
}

/** One criterion with what was asked and what came out. */
export interface CriterionOutcome {
  label: string;
  asked: number;
  got: number | null;
  held: boolean;
  /** why there is no figure, where the criterion is judged all the same */
  note?: string;
  /** how the two figures are shown */
  unit: "ratio" | "count" | "percent";
}

export interface ProbeOutcome {
  verdict: "passed" | "failed";
  criteria: CriterionOutcome[];
  /** figures of the parts compared, by the part's name */
  parts: { name: string; from: string; to: string; metrics: Metrics }[];
  /** series for the drawing: equity by session date over all parts */
  equity: { date: number[]; value: number[] };
  /** bars that the verdict rests on */
  weight: number;
}

export type ProbeRun = { outcome: ProbeOutcome; problems: [] } | { outcome: null; problems: DocumentProblem[] };

/** A kind of probe: what it asks, what it needs, how it is judged. Adding one is adding a file and its tests, and naming it here. */
export interface ProbeKind<Input = unknown> {
  kind: string;
  name: string;
  question: string;
  /** what the verdict does not say */
  caution: string;
  read: (given: unknown) => { value: Input; problems: [] } | { value: null; problems: DocumentProblem[] };
  run: (input: Input, context: ProbeContext) => ProbeRun;
}

/** Every kind of probe, in the order in which practitioners run them. */
export const PROBES: ReadonlyMap<string, ProbeKind<unknown>> = new Map([[outOfSample.kind, outOfSample as unknown as ProbeKind<unknown>]]);
