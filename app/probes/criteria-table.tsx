import type { CriterionOutcome } from "#core/probes";
import { criterionText } from "./form-state";

/** What was asked of each criterion and what came out. */
export function CriteriaTable({ criteria }: { criteria: readonly CriterionOutcome[] }) {
  return (
    <table aria-label="Criteria" className="mb-3 w-full border-collapse">
      <thead className="text-sm text-ink-soft">
        <tr>
          {["criterion", "asked", "came out", "held"].map((head, k) => (
            <th key={head} scope="col" className={`font-normal ${k === 0 ? "text-left" : "pl-2 text-right"}`}>
              {k === 3 ? <span className="sr-only">{head}</span> : head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {criteria.map(({ label, want = "least", asked, got, note, unit, held }) => (
          <tr key={label} className="border-t border-edge/60">
            <th scope="row" className="py-1 text-left font-normal">
              {label}
            </th>
            <td className="figure-text pl-2 text-right whitespace-nowrap">
              {want === "least" ? "≥" : "≤"} {criterionText(unit, asked)}
            </td>
            <td className="figure-text pl-2 text-right font-semibold whitespace-nowrap">
              {note ?? (got === null ? "–" : criterionText(unit, got))}
            </td>
            <td className={`pl-2 text-right whitespace-nowrap ${held ? "text-moss-ink" : "text-clay"}`}>{held ? "held" : "not held"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
