import { X } from "lucide-react";
import { METRICS } from "#core/metrics";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";

/** One wish, as typed. */
export interface Wish {
  metric: string;
  weight: string;
}

export const MOST_WISHES = 4;

const OBJECTIVES = [
  "profitToDrawdown",
  "netProfit",
  "profitFactor",
  "sharpe",
  "mar",
  "cagr",
  "averageTrade",
  "tradeT",
  "expectancyR",
  "equityR2",
  "winners",
  "maxDrawdownPercent",
  "ulcer",
];

/** What is best: one figure, or several with weights. */
export function ObjectiveForm({ wishes, onChange }: { wishes: readonly Wish[]; onChange: (wishes: Wish[]) => void }) {
  const set = (i: number, change: Partial<Wish>) => onChange(wishes.map((wish, k) => (k === i ? { ...wish, ...change } : wish)));
  const free = OBJECTIVES.filter((key) => !wishes.some((wish) => wish.metric === key));
  return (
    <div className="flex flex-col gap-2">
      {wishes.map((wish, i) => (
        <div key={i} className="flex items-end gap-2">
          <Select
            className="w-64"
            label={i === 0 ? "Objective" : `Objective ${i + 1}`}
            value={wish.metric}
            choices={OBJECTIVES.filter((key) => key === wish.metric || free.includes(key)).map((key) => ({
              value: key,
              label: `${METRICS[key].better === "less" ? "least" : "most"} ${METRICS[key].label.toLowerCase()}${METRICS[key].unit === "percent" ? ", %" : ""}`,
            }))}
            onChange={(metric) => set(i, { metric })}
          />
          {wishes.length > 1 && (
            <>
              <Field
                className="w-20"
                figure
                inputMode="decimal"
                label="Weight"
                aria-label={`Weight of objective ${i + 1}`}
                value={wish.weight}
                onChange={(event) => set(i, { weight: event.target.value })}
              />
              <button
                type="button"
                aria-label={`Take objective ${i + 1} out`}
                className="mb-1 rounded p-1 hover:bg-shade"
                onClick={() => onChange(wishes.filter((_, k) => k !== i))}
              >
                <X size={15} aria-hidden />
              </button>
            </>
          )}
        </div>
      ))}
      <div className="flex items-center gap-3">
        <Button
          small
          look="quiet"
          disabled={wishes.length >= MOST_WISHES}
          onClick={() => onChange([...wishes, { metric: free[0], weight: "1" }])}
        >
          And another
        </Button>
        <p className="min-w-0 flex-1 text-sm text-ink-soft">
          {wishes.length === 1
            ? METRICS[wishes[0].metric].definition
            : "Each trial is ranked by every figure; the weighted mean of its ranks, from 0 to 100, is its fit."}
        </p>
      </div>
    </div>
  );
}
