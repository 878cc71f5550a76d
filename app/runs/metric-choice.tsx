import { METRICS } from "#core/metrics";
import { Select } from "~/design/field";
import { REPORT_KEYS } from "./report-keys";

/** A choice of any figure, or of none. */
export function MetricChoice({ label, value, onChange }: { label: string; value: string | null; onChange: (key: string | null) => void }) {
  return (
    <Select
      className="w-60"
      label={label}
      value={value ?? "none"}
      choices={[
        { value: "none", label: "none" },
        ...REPORT_KEYS.map((key) => ({
          value: key,
          label: METRICS[key].label + ({ money: " in money", percent: " in %" }[METRICS[key].unit as string] ?? ""),
        })),
      ]}
      onChange={(key) => onChange(key === "none" ? null : key)}
    />
  );
}
