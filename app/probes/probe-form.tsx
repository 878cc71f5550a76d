import type { ProbeCriterion, ProbeField, ProbeKind } from "#core/probes";
import { Field, Select } from "~/design/field";
import type { FormState } from "./form-state";

/** A search that a probe may repeat, in words. */
export interface SearchChoice {
  label: string;
  search: unknown;
}

interface Props {
  kind: ProbeKind;
  state: FormState;
  onChange: (state: FormState) => void;
  /** symbols that may be chosen */
  symbols: readonly string[];
  searches: readonly SearchChoice[];
}

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/** Inputs and criteria of any kind of probe. */
export function ProbeForm({ kind, state, onChange, symbols, searches }: Props) {
  const setField = (key: string, value: unknown) => onChange({ ...state, fields: { ...state.fields, [key]: value } });
  const setCriterion = (key: string, value: string) => onChange({ ...state, criteria: { ...state.criteria, [key]: value } });
  return (
    <>
      {kind.fields.length > 0 && (
        <div className="grid grid-cols-2 gap-2">
          {kind.fields.map((field) => (
            <OneField
              key={field.key}
              field={field}
              value={state.fields[field.key]}
              onChange={(value) => setField(field.key, value)}
              symbols={symbols}
              searches={searches}
            />
          ))}
        </div>
      )}
      <fieldset className="mt-3">
        <legend className="mb-1 font-semibold">Criteria, set before it runs</legend>
        <div className="grid grid-cols-2 gap-2">
          {kind.criteria.map((criterion) => (
            <Field
              key={criterion.key}
              label={criterionLabel(criterion)}
              value={state.criteria[criterion.key]}
              inputMode="decimal"
              figure
              placeholder="not asked"
              onChange={(event) => setCriterion(criterion.key, event.target.value)}
            />
          ))}
        </div>
      </fieldset>
    </>
  );
}

const UNITS: Record<ProbeCriterion["unit"], string> = { ratio: "", count: "", percent: ", %", times: ", ×" };

const criterionLabel = ({ label, want, unit }: ProbeCriterion): string => `${label}, at ${want}${UNITS[unit]}`;

function OneField({
  field,
  value,
  onChange,
  symbols,
  searches,
}: {
  field: ProbeField;
  value: unknown;
  onChange: (value: unknown) => void;
  symbols: readonly string[];
  searches: readonly SearchChoice[];
}) {
  const { label, about } = field;
  switch (field.kind) {
    case "choice":
      return <Select label={label} value={value as string} choices={field.choices} onChange={onChange} />;
    case "truth":
      return (
        <label className="flex items-center gap-2 self-end pb-1.5">
          <input type="checkbox" checked={value as boolean} onChange={(event) => onChange(event.target.checked)} />
          {label}
        </label>
      );
    case "markets": {
      const chosen = value as string[];
      return (
        <fieldset className="col-span-2">
          <legend className="text-sm text-ink-soft">{label}</legend>
          <div className="max-h-36 overflow-auto rounded-[4px] border border-edge px-2 py-1 columns-4">
            {symbols.map((symbol) => (
              <label key={symbol} className="flex items-center gap-1.5">
                <input
                  type="checkbox"
                  checked={chosen.includes(symbol)}
                  onChange={(event) => onChange(event.target.checked ? [...chosen, symbol] : chosen.filter((one) => one !== symbol))}
                />
                <span className="figure-text text-sm">{symbol}</span>
              </label>
            ))}
          </div>
          <p className="text-xs text-ink-soft">{about}</p>
        </fieldset>
      );
    }
    case "search": {
      const at = searches.findIndex((one) => same(one.search, value));
      const choices = [
        ...(value !== null && at < 0 ? [{ value: "own", label: "as it was written down" }] : []),
        ...searches.map((one, k) => ({ value: String(k), label: one.label })),
      ];
      return (
        <div className="col-span-2">
          {choices.length === 0 ? (
            <p className="text-ink-soft">
              {label}: the version has no parameters with a range and no optimization yet. Give its numbers ranges, or optimize it first.
            </p>
          ) : (
            <Select
              label={label}
              value={at >= 0 ? String(at) : value !== null ? "own" : ""}
              placeholder="choose a search"
              choices={choices}
              onChange={(chosen) => chosen !== "own" && onChange(searches[Number(chosen)].search)}
            />
          )}
        </div>
      );
    }
    default:
      return (
        <Field
          label={field.kind === "number" && field.unit ? `${label}, ${field.unit}` : label}
          value={value as string}
          type={field.kind === "date" ? "date" : undefined}
          inputMode={field.kind === "number" || field.kind === "whole" ? "decimal" : undefined}
          figure={field.kind === "number" || field.kind === "whole"}
          hint={about}
          className={field.kind === "numbers" || field.kind === "timeframes" ? "col-span-2" : ""}
          onChange={(event) => onChange(event.target.value)}
        />
      );
  }
}
