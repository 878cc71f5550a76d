import { X } from "lucide-react";
import { METRICS } from "#core/metrics";
import type { RowFilter } from "#core/optimize";
import { Field, Select } from "~/design/field";
import { metricLabel } from "~/design/format";

interface Props {
  filters: readonly RowFilter[];
  onChange: (filters: readonly RowFilter[]) => void;
  standing: string;
  onStanding: (standing: string | null) => void;
  names: readonly string[];
  /** figures that the trials have */
  metrics: readonly string[];
  currency: string;
}

const text = (value: number | null) => (value === null ? "" : String(value));
const number = (typed: string): number | null => {
  const value = Number(typed.replace(",", "."));
  return typed.trim() === "" || !Number.isFinite(value) ? null : value;
};

/** Which trials the table shows: inside or outside the limits, and bounds on any name or figure. */
export function FilterBar({ filters, onChange, standing, onStanding, names, metrics, currency }: Props) {
  const label = (key: string) => (key in METRICS ? metricLabel(key, currency) : key);
  const set = (i: number, change: Partial<RowFilter>) => onChange(filters.map((one, k) => (k === i ? { ...one, ...change } : one)));
  return (
    <div className="flex flex-wrap items-end gap-2 px-3.5 pb-2 text-sm">
      <Select
        className="w-40"
        label="Show"
        value={standing}
        choices={[
          { value: "all", label: "all trials" },
          { value: "inside", label: "inside the limits" },
          { value: "outside", label: "outside the limits" },
        ]}
        onChange={(value) => onStanding(value === "all" ? null : value)}
      />
      {filters.map(({ key, least, most }, i) => (
        <fieldset key={`${key} ${i}`} className="flex items-end gap-1">
          <legend className="sr-only">Filter {i + 1}</legend>
          <Field
            figure
            className="w-24"
            inputMode="decimal"
            label={`${label(key)} from`}
            value={text(least)}
            onChange={(event) => set(i, { least: number(event.target.value) })}
          />
          <Field
            figure
            className="w-24"
            inputMode="decimal"
            label="to"
            aria-label={`${label(key)} to`}
            value={text(most)}
            onChange={(event) => set(i, { most: number(event.target.value) })}
          />
          <button
            type="button"
            aria-label={`Take the filter on ${label(key)} off`}
            className="mb-1 rounded p-1 hover:bg-shade"
            onClick={() => onChange(filters.filter((_, k) => k !== i))}
          >
            <X size={14} aria-hidden />
          </button>
        </fieldset>
      ))}
      <Select
        className="w-44"
        label="Filter by"
        value=""
        placeholder="a name or figure"
        choices={[...names, ...metrics]
          .filter((key) => !filters.some((one) => one.key === key))
          .map((value) => ({ value, label: label(value) }))}
        onChange={(key) => onChange([...filters, { key, least: null, most: null }])}
      />
    </div>
  );
}
