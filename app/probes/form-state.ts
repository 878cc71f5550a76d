import type { ProbeCriterion, ProbeField, ProbeInput, ProbeKind } from "#core/probes";

/** A probe's form as typed: fields and criteria by their keys. */
export interface FormState {
  fields: Record<string, unknown>;
  criteria: Record<string, string>;
}

/** A number as typed: either sign of the decimal; what is no number goes along and is refused with its name. */
export function typedNumber(text: string): unknown {
  const trimmed = text.trim().replace(",", ".");
  return trimmed === "" ? undefined : Number.isFinite(Number(trimmed)) ? Number(trimmed) : text;
}

const written = (field: ProbeField, value: unknown): unknown => {
  switch (field.kind) {
    case "number":
    case "whole":
      return value === undefined || value === null ? "" : String(value);
    case "numbers":
      return ((value ?? []) as number[]).join(", ");
    case "markets":
      return [...((value ?? []) as string[])];
    case "timeframes":
      return ((value ?? []) as string[]).join(", ");
    case "date":
      return value ?? "";
    default:
      return value ?? field.initial;
  }
};

/** What a form starts from: an input that is there, or what a new probe starts from with some fields given. */
export function formOf(
  kind: Pick<ProbeKind, "fields" | "criteria">,
  input: ProbeInput | null,
  given: Record<string, unknown> = {},
): FormState {
  return {
    fields: Object.fromEntries(
      kind.fields.map((field) => [field.key, written(field, input?.[field.key] ?? given[field.key] ?? field.initial)]),
    ),
    criteria: Object.fromEntries(
      kind.criteria.map(({ key, initial }) => {
        const value = input === null ? initial : input.criteria[key];
        return [key, value === null || value === undefined ? "" : String(value)];
      }),
    ),
  };
}

const listed = (text: string): string[] =>
  text
    .split(/[\s;,]+/)
    .map((part) => part.trim())
    .filter((part) => part !== "");

/** The input that a form stands for; criteria that are left empty are not asked. */
export function inputOf(kind: Pick<ProbeKind, "fields" | "criteria">, { fields, criteria }: FormState): Record<string, unknown> {
  const read = (field: ProbeField): unknown => {
    const value = fields[field.key];
    switch (field.kind) {
      case "number":
      case "whole":
        return typedNumber(value as string);
      case "numbers":
        return listed(value as string).map(typedNumber);
      case "timeframes":
        return listed(value as string);
      case "date":
        return value === "" ? undefined : value;
      default:
        return value ?? undefined;
    }
  };
  const asked = kind.criteria.map(({ key }) => [key, typedNumber(criteria[key])] as const).filter(([, value]) => value !== undefined);
  return { ...Object.fromEntries(kind.fields.map((field) => [field.key, read(field)])), criteria: Object.fromEntries(asked) };
}

/** A criterion's figure with its unit. */
export function criterionText(unit: ProbeCriterion["unit"], value: number): string {
  const digits = unit === "count" || Number.isInteger(value) ? 0 : unit === "percent" || unit === "times" ? 1 : 2;
  const text = value.toLocaleString("en", { minimumFractionDigits: digits, maximumFractionDigits: digits }).replace("-", "−");
  return unit === "percent" ? `${text} %` : unit === "times" ? `${text} ×` : text;
}

/** What a probe asks, in one line. */
export function askedWords(kind: Pick<ProbeKind, "criteria">, asked: Record<string, number>): string {
  return kind.criteria
    .filter(({ key }) => asked[key] !== undefined)
    .map(
      ({ key, label, unit, want }) =>
        `${label.charAt(0).toLowerCase()}${label.slice(1)} ${want === "least" ? "≥" : "≤"} ${criterionText(unit, asked[key])}`,
    )
    .join(", ");
}

/** A probe's inputs in words, those that were chosen; a search by what it varies. */
export function inputWords(kind: Pick<ProbeKind, "fields">, input: ProbeInput): string {
  const said = (field: ProbeField): string => {
    const value = input[field.key];
    if (value === undefined || value === null) return "";
    const name = field.label.charAt(0).toLowerCase() + field.label.slice(1);
    switch (field.kind) {
      case "choice":
        return `${name} ${field.choices.find((one) => one.value === value)?.label ?? String(value)}`;
      case "truth":
        return value === true ? name : "";
      case "numbers":
      case "markets":
      case "timeframes":
        return `${name} ${(value as unknown[]).join(", ")}`;
      case "search":
        return `${name}: ${(value as { vary: { name: string; from?: number; to?: number; step?: number; values?: unknown[] }[] }).vary
          .map((one) =>
            one.values === undefined ? `${one.name} ${one.from} to ${one.to} by ${one.step}` : `${one.name} ${one.values.join(", ")}`,
          )
          .join("; ")}`;
      default:
        return `${name} ${String(value)}${"unit" in field && field.unit ? ` ${field.unit}` : ""}`;
    }
  };
  return kind.fields
    .map(said)
    .filter((one) => one !== "")
    .join(" · ");
}
