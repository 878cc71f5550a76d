import type { OutOfSampleInput } from "#core/probes";
import { Field } from "~/design/field";

/** Criteria as typed. */
export interface CriteriaState {
  split: string;
  profitFactor: string;
  trades: string;
  keptPercent: string;
}

/** The probe's input; what is left empty is not asked. What is no number goes along and is refused with its name. */
export function criteriaOf(state: CriteriaState): OutOfSampleInput {
  const number = (text: string) => {
    const trimmed = text.trim().replace(",", ".");
    return trimmed === "" ? undefined : Number.isFinite(Number(trimmed)) ? Number(trimmed) : (text as unknown as number);
  };
  return {
    split: state.split,
    criteria: { profitFactor: number(state.profitFactor), trades: number(state.trades), keptPercent: number(state.keptPercent) },
  };
}

/** What the out-of-sample probe asks, written down before it runs. */
export function CriteriaFields({ state, onChange }: { state: CriteriaState; onChange: (state: CriteriaState) => void }) {
  const field = (key: keyof CriteriaState, label: string, type?: string) => (
    <Field
      label={label}
      value={state[key]}
      type={type}
      inputMode={type ? undefined : "decimal"}
      figure={!type}
      onChange={(event) => onChange({ ...state, [key]: event.target.value })}
    />
  );
  return (
    <div className="grid grid-cols-2 gap-2">
      {field("split", "In-sample up to", "date")}
      {field("trades", "Least closed trades")}
      {field("profitFactor", "Least profit factor")}
      {field("keptPercent", "Least share of CAGR ÷ drawdown kept, %")}
    </div>
  );
}
