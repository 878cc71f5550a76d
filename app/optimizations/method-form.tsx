import { Field, Select } from "~/design/field";
import { METHOD_FIELDS, METHOD_WORDS, type MethodState } from "./method-state";

/** How combinations are chosen, and the numbers that this way needs. */
export function MethodForm({ state, onChange }: { state: MethodState; onChange: (state: MethodState) => void }) {
  const { about, fields } = METHOD_WORDS[state.kind];
  return (
    <div className="mt-2">
      <div className="flex flex-wrap items-end gap-3">
        <Select
          className="w-56"
          label="Combinations that are tried"
          value={state.kind}
          choices={Object.entries(METHOD_WORDS).map(([value, { label }]) => ({ value, label }))}
          onChange={(kind) => onChange({ ...state, kind: kind as MethodState["kind"] })}
        />
        {fields.map((key) => (
          <Field
            key={key}
            className="w-24"
            figure
            inputMode="numeric"
            label={METHOD_FIELDS[key]!}
            value={state[key]}
            onChange={(event) => onChange({ ...state, [key]: event.target.value })}
          />
        ))}
      </div>
      <p className="mt-1 text-sm text-ink-soft">{about}</p>
    </div>
  );
}
