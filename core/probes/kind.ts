import { parseDate, parseTimeframe, type Bars } from "#core/bars";
import {
  checkShape,
  exact,
  list,
  number,
  oneOf,
  text,
  truth,
  whole,
  withoutNulls,
  type DocumentProblem,
  type Metrics,
  type Read,
  type Settings,
  type Strategy,
} from "#core/documents";
import { searchSchema } from "#core/optimize";
import type * as yup from "yup";
import type { Drawing } from "./drawings";

/** How a figure of a probe is shown. */
export type ProbeUnit = "ratio" | "count" | "percent" | "times";

/** One input of a probe: its key in the document, its words, and what it may be. */
export type ProbeField = { key: string; label: string; about?: string } & (
  | { kind: "number" | "whole"; initial: number; least?: number; most?: number; unit?: string }
  | { kind: "date"; initial: null }
  | { kind: "choice"; initial: string; choices: readonly { value: string; label: string }[] }
  | { kind: "truth"; initial: boolean }
  /** rising numbers */
  | { kind: "numbers"; initial: readonly number[]; least: number; most: number; whole: boolean }
  | { kind: "markets" | "timeframes"; initial: readonly string[] }
  /** what is varied, and what for: the part of `canyon.optimization/1` apart from strategy, settings and dates */
  | { kind: "search"; initial: null }
);

/** A criterion that a probe can be judged by; which ones are asked is the trader's choice. */
export interface ProbeCriterion {
  key: string;
  label: string;
  unit: ProbeUnit;
  want: "least" | "most";
  /** what a new probe starts from; null: not asked unless somebody does */
  initial: number | null;
  /** what it can be at all; beyond that it could never be met, or always would be */
  from: number;
  to: number;
}

/** Bars beside the version's own, on which a probe runs as well. */
export interface OtherBars {
  name: string;
  settings: Settings;
  /** in the order of the settings' markets */
  bars: readonly Bars[];
}

/** What every probe is given. `bars` are in the order of the settings' markets. */
export interface ProbeContext {
  strategy: Strategy;
  settings: Settings;
  bars: readonly Bars[];
  others: readonly OtherBars[];
}

export type ProbeInput = Record<string, unknown> & { criteria: Record<string, number> };

/** What a criterion came to; `held` where it is judged without a figure, with the reason. */
export type Got = number | null | { held: boolean; note: string };

/** One run that a probe compares with others. */
export interface ProbePart {
  name: string;
  from: string;
  to: string;
  metrics: Metrics;
  /** whether it reaches what each part has to reach, where the probe asks that */
  held?: boolean;
}

/** What a probe found, before it is judged. */
export interface Finding {
  /** by the criterion's key */
  got: Record<string, Got>;
  /** what came out, in a sentence */
  said: string;
  parts?: ProbePart[];
  drawings: Drawing[];
  /** bars that the verdict rests on */
  weight: number;
}

/** One criterion with what was asked and what came out. */
export interface CriterionOutcome {
  key?: string;
  label: string;
  /** whether `asked` is the least or the most; the least where left out */
  want?: "least" | "most";
  asked: number;
  got: number | null;
  held: boolean;
  /** why there is no figure, where the criterion is judged all the same */
  note?: string;
  unit: ProbeUnit;
}

export interface ProbeOutcome {
  verdict: "passed" | "failed";
  criteria: CriterionOutcome[];
  said: string;
  parts: ProbePart[];
  drawings: Drawing[];
  weight: number;
}

/** Bars beside the version's own that a probe needs. */
export type Needs = "nothing" | "markets" | "sources" | "finest" | "sealed";

export type Ready<T> = { value: T; problems: [] } | { value: null; problems: DocumentProblem[] };

/**
 * A kind of probe: what it asks, what it needs, how it is judged. Its work is cut into units that rest on nothing but the
 * input, the bars and the unit's number, so that they can be computed anywhere, in any order, and be taken up again.
 */
export interface ProbeKind<Input extends ProbeInput = ProbeInput, Prepared = unknown, Unit = unknown> {
  kind: string;
  name: string;
  /** in one sentence */
  question: string;
  /** what the verdict does not say */
  caution: string;
  needs: Needs;
  fields: readonly ProbeField[];
  criteria: readonly ProbeCriterion[];
  /** Makes everything ready that the units share, and says what is wrong before anything runs. */
  prepare: (input: Input, context: ProbeContext) => Ready<Prepared>;
  /** how many units there are */
  units: (prepared: Prepared) => number;
  /** what one unit is, in words of the progress: “runs”, “windows” */
  unitName: string;
  compute: (prepared: Prepared, unit: number) => Unit;
  conclude: (prepared: Prepared, units: readonly Unit[]) => Finding;
}

/** A kind whose input, preparation and units are known to itself only. */
export const probe = <Input extends ProbeInput, Prepared, Unit>(kind: ProbeKind<Input, Prepared, Unit>): ProbeKind =>
  kind as unknown as ProbeKind;

const bounded = (schema: yup.NumberSchema, least?: number, most?: number): yup.NumberSchema => {
  let out = schema;
  if (least !== undefined) out = out.min(least, `must be at least ${least}`);
  if (most !== undefined) out = out.max(most, `must be at most ${most}`);
  return out;
};

function fieldSchema(field: ProbeField): yup.Schema {
  switch (field.kind) {
    case "number":
      return bounded(number(), field.least, field.most);
    case "whole":
      return bounded(whole(), field.least, field.most);
    case "date":
      return text()
        .test("date", "must be a date, YYYY-MM-DD", (x) => x === undefined || x === null || parseDate(x) !== null)
        .required("is needed: a date, YYYY-MM-DD");
    case "choice":
      return oneOf(field.choices.map(({ value }) => value));
    case "truth":
      return truth();
    case "numbers":
      return list(bounded(field.whole ? whole() : number(), field.least, field.most).required())
        .min(1, "must hold at least one number")
        .test("rising", "must be a rising list", (x) => x === undefined || x === null || x.every((one, k) => k === 0 || one > x[k - 1]));
    case "markets":
      return list(text().required());
    case "timeframes":
      return list(
        text()
          .required()
          .test("timeframe", "must be a timeframe, such as 4h or 1w", (x) => x === undefined || parseTimeframe(x) !== null),
      );
    case "search":
      return searchSchema();
  }
}

/** Reads a probe's input with its defaults filled in; criteria that are left out are not asked. */
export function readInput(kind: ProbeKind, given: unknown): Read<ProbeInput> {
  const criteria = Object.fromEntries(
    kind.criteria.map(({ key, from, to }) => [
      key,
      number().test(
        "can be met",
        `must be from ${from} to ${to}; nothing else can be met, or missed`,
        (x) => x === undefined || x === null || (x >= from && x <= to),
      ),
    ]),
  );
  const schema = exact(
    {
      ...Object.fromEntries(kind.fields.map((field) => [field.key, fieldSchema(field)])),
      criteria: exact(criteria, "the criteria").required(),
    },
    `a probe of the kind ${kind.kind}`,
  );
  const problems = checkShape(schema, given);
  if (problems.length > 0) return { value: null, problems };
  const raw = withoutNulls(given) as ProbeInput;
  if (Object.keys(raw.criteria).length === 0)
    return {
      value: null,
      problems: [
        { path: "criteria", message: "set at least one criterion before the probe runs; a verdict needs something to be judged by" },
      ],
    };
  const value = { ...raw };
  for (const field of kind.fields) if (value[field.key] === undefined && field.initial !== null) value[field.key] = field.initial;
  return { value, problems: [] };
}

/** The verdict on a finding, by the criteria that were set. */
export function judgeFinding(kind: ProbeKind, input: ProbeInput, finding: Finding): ProbeOutcome {
  const criteria = kind.criteria.flatMap(({ key, label, unit, want }): CriterionOutcome[] => {
    const asked = input.criteria[key];
    if (asked === undefined) return [];
    const got = finding.got[key] ?? null;
    if (typeof got === "object" && got !== null) return [{ key, label, unit, want, asked, got: null, ...got }];
    return [{ key, label, unit, want, asked, got, held: got !== null && (want === "least" ? got >= asked : got <= asked) }];
  });
  const { said, parts = [], drawings, weight } = finding;
  return { verdict: criteria.every(({ held }) => held) ? "passed" : "failed", criteria, said, parts, drawings, weight };
}

export type ProbeRun = { outcome: ProbeOutcome; problems: [] } | { outcome: null; problems: DocumentProblem[] };

/** A whole probe in one go. `given` was read before. */
export function runProbe(kind: ProbeKind, input: ProbeInput, context: ProbeContext): ProbeRun {
  const { value, problems } = kind.prepare(input, context);
  if (problems.length > 0) return { outcome: null, problems };
  const units = Array.from({ length: kind.units(value) }, (_, k) => kind.compute(value, k));
  return { outcome: judgeFinding(kind, input, kind.conclude(value, units)), problems: [] };
}
