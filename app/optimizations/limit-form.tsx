import { X } from "lucide-react";
import { METRIC_KEYS } from "#core/metrics";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { metricLabel } from "~/design/format";

/** One limit, as typed: fractions as shares from 0 to 1, as files have them. */
export interface Bound {
  metric: string;
  least: string;
  most: string;
}

export const MOST_BOUNDS = 6;

/** Limits of a search as a document has them, or null where one holds no number. */
export function boundsFrom(bounds: readonly Bound[]): { metric: string; least: number | null; most: number | null }[] | null {
  const number = (text: string) => (text.trim() === "" ? null : Number(text.replace(",", ".")));
  const out = bounds.map(({ metric, least, most }) => ({ metric, least: number(least), most: number(most) }));
  return out.every(({ least, most }) => (least !== null || most !== null) && [least, most].every((x) => x === null || Number.isFinite(x)))
    ? out
    : null;
}

/** What a trial must keep within to count at all. */
export function LimitForm({ bounds, onChange }: { bounds: readonly Bound[]; onChange: (bounds: Bound[]) => void }) {
  const set = (i: number, change: Partial<Bound>) => onChange(bounds.map((bound, k) => (k === i ? { ...bound, ...change } : bound)));
  const field = (i: number, key: "least" | "most", name: string) => (
    <Field
      className="w-24"
      figure
      inputMode="decimal"
      label={i === 0 ? name : `${name}, limit ${i + 1}`}
      value={bounds[i][key]}
      onChange={(event) => set(i, { [key]: event.target.value })}
    />
  );
  return (
    <fieldset className="mt-3">
      <legend className="text-sm text-ink-soft">Only trials within these limits count</legend>
      <div className="flex flex-col gap-1">
        {bounds.map((bound, i) => (
          <div key={i} className="flex items-end gap-2">
            <Select
              className="w-56"
              label={i === 0 ? "Limit" : `Limit ${i + 1}`}
              value={bound.metric}
              choices={METRIC_KEYS.map((key) => ({ value: key, label: metricLabel(key, "money") }))}
              onChange={(metric) => set(i, { metric })}
            />
            {field(i, "least", "At least")}
            {field(i, "most", "At most")}
            <button
              type="button"
              aria-label={`Take limit ${i + 1} out`}
              className="mb-1 rounded p-1 hover:bg-shade"
              onClick={() => onChange(bounds.filter((_, k) => k !== i))}
            >
              <X size={15} aria-hidden />
            </button>
          </div>
        ))}
      </div>
      <Button
        small
        look="quiet"
        className="mt-1"
        disabled={bounds.length >= MOST_BOUNDS}
        onClick={() => onChange([...bounds, { metric: "maxDrawdownPercent", least: "", most: "" }])}
      >
        A limit more
      </Button>
    </fieldset>
  );
}
