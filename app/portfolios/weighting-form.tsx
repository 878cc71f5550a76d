import { isEstimated, MODE_WORDS, MODES, type WeightMode } from "#core/portfolio";
import { Field, Select } from "~/design/field";
import { Panel } from "~/design/panel";
import type { BuilderState, Problem } from "./builder-state";

/** How weights come about: by hand, or estimated on a stretch, within limits, once or again and again. */
export function WeightingForm({
  state,
  onChange,
  problems,
}: {
  state: BuilderState;
  onChange: (next: BuilderState, kind?: string) => void;
  problems: readonly Problem[];
}) {
  const { weighting } = state;
  const change = (more: Partial<typeof weighting>, kind: string) =>
    onChange({ ...state, weighting: { ...weighting, ...more } }, `weighting ${kind}`);
  const estimated = isEstimated(weighting);
  const limited = weighting.mode === "minimumVariance" || weighting.mode === "maximumDiversification";
  const error = (key: string) => problems.find(({ path }) => path === `weights.${key}`)?.message;
  const percent = (text: string): number | undefined =>
    text.trim() === "" || !Number.isFinite(Number(text)) ? undefined : Number(text) / 100;
  const shown = (x: number | undefined) => (x === undefined ? "" : String(Number((100 * x).toFixed(4))));
  const choose = (mode: WeightMode) => {
    const stretch = { from: weighting.from, to: weighting.to };
    onChange({ ...state, weighting: mode === "given" || mode === "equal" ? { mode } : { mode, ...stretch } });
  };
  return (
    <Panel title="Weights">
      <Select
        label="How"
        value={weighting.mode}
        choices={MODES.map((mode) => ({ value: mode, label: MODE_WORDS[mode].name }))}
        onChange={(value) => choose(value as WeightMode)}
      />
      <p className="mt-1 text-sm text-ink-soft">{MODE_WORDS[weighting.mode].about}</p>
      {estimated && (
        <>
          <div className="mt-1.5 grid grid-cols-2 gap-2">
            <Field
              label="Estimated from"
              type="date"
              value={weighting.from ?? ""}
              error={error("from")}
              onChange={(event) => change({ from: event.target.value || undefined }, "from")}
            />
            <Field
              label="to"
              type="date"
              value={weighting.to ?? ""}
              error={error("to")}
              onChange={(event) => change({ to: event.target.value || undefined }, "to")}
            />
            {limited && (
              <>
                <Field
                  label="At least, %"
                  inputMode="decimal"
                  value={shown(weighting.least)}
                  error={error("least")}
                  onChange={(event) => change({ least: percent(event.target.value) }, "least")}
                />
                <Field
                  label="At most, %"
                  inputMode="decimal"
                  value={shown(weighting.most)}
                  error={error("most")}
                  onChange={(event) => change({ most: percent(event.target.value) }, "most")}
                />
              </>
            )}
            <Field
              label="Anew every … months"
              inputMode="numeric"
              placeholder="once"
              value={weighting.every ?? ""}
              error={error("every")}
              onChange={(event) => {
                const every = Number(event.target.value);
                change({ every: event.target.value === "" || !Number.isInteger(every) || every < 1 ? undefined : every }, "every");
              }}
            />
            <label className="flex items-center gap-1.5 self-end pb-1.5 text-sm" title="Ledoit and Wolf 2004: towards constant correlation">
              <input
                type="checkbox"
                checked={weighting.shrink ?? false}
                onChange={(event) => change({ shrink: event.target.checked || undefined }, "shrink")}
              />
              covariance shrunk
            </label>
          </div>
          <p className="mt-1.5 text-sm text-ink-soft">
            What is estimated on a stretch flatters there. Only the dates after it judge the weights; both are tinted in the curves.
          </p>
        </>
      )}
    </Panel>
  );
}
