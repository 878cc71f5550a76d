import { Plus, X } from "lucide-react";
import type { Parameter, Strategy } from "#core/documents";
import { renameEverywhere } from "#core/editing";
import { Button } from "~/design/button";
import { Select } from "~/design/field";
import { Slider } from "~/design/slider";
import type { StrategyProblem } from "#core/engine";
import type { Draft } from "./draft";
import { NumberInput } from "./inputs";
import { NameInput } from "./name-input";

const KINDS = [
  { value: "whole", label: "whole" },
  { value: "number", label: "number" },
  { value: "yesNo", label: "yes/no" },
];

/** A range that a slider can have even where the parameter names none. */
function sliderRange(parameter: Parameter): { min: number; max: number; step: number } {
  const value = Number(parameter.value);
  const min = parameter.min ?? Math.min(0, value);
  const max = parameter.max ?? Math.max(value * 2, min + 10);
  return {
    min: Math.min(min, value),
    max: Math.max(max, value, min + 1e-9),
    step: parameter.step ?? (parameter.kind === "whole" ? 1 : (max - min) / 100),
  };
}

/** Sliders for every parameter, and behind each its name, kind, range and meaning. */
export function Parameters({ draft, problems }: { draft: Draft; problems: readonly StrategyProblem[] }) {
  const parameters = draft.strategy.parameters ?? [];
  const set = (i: number, key: keyof Parameter, value: Parameter[keyof Parameter]) =>
    draft.change(`parameter ${i} ${key}`, (strategy) => ({
      ...strategy,
      parameters: strategy.parameters!.map((p, k) => {
        if (k !== i) return p;
        const next = { ...p, [key]: value } as Parameter;
        if (value === undefined || value === "") delete (next as unknown as Record<string, unknown>)[key];
        if (key === "kind" && value === "yesNo")
          return { name: p.name, kind: "yesNo", value: Boolean(p.value), ...(p.about ? { about: p.about } : {}) };
        if (key === "kind" && typeof p.value === "boolean") next.value = p.value ? 1 : 0;
        if (key === "kind" && value === "whole") next.value = Math.round(Number(next.value));
        return next;
      }),
    }));
  const add = () =>
    draft.change("parameter add", (strategy: Strategy) => {
      const taken = new Set((strategy.parameters ?? []).map((p) => p.name));
      const name = ["length", "level", "period"].find((n) => !taken.has(n)) ?? `p${taken.size + 1}`;
      return { ...strategy, parameters: [...(strategy.parameters ?? []), { name, kind: "whole", value: 20, min: 5, max: 100, step: 5 }] };
    });
  const remove = (i: number) =>
    draft.change("parameter remove", (strategy) => ({ ...strategy, parameters: strategy.parameters!.filter((_, k) => k !== i) }));
  return (
    <section aria-label="Parameters">
      <h2 className="text-lg">Parameters</h2>
      {parameters.length === 0 && (
        <p className="text-sm text-ink-soft">A parameter is a number with a name, for the rules to use and a slider to move.</p>
      )}
      <ul>
        {parameters.map((parameter, i) => {
          const range = sliderRange(parameter);
          const own = problems.filter((problem) => problem.path.startsWith(`parameters[${i}].`));
          return (
            <li key={i} className="border-b border-edge/60 py-1">
              <div className="grid grid-cols-[112px_1fr_64px] items-center gap-2">
                <span className="figure-text truncate" title={parameter.about}>
                  {parameter.name}
                </span>
                {parameter.kind === "yesNo" ? (
                  <label className="col-span-2 inline-flex items-center gap-2">
                    <input type="checkbox" checked={parameter.value === true} onChange={(event) => set(i, "value", event.target.checked)} />
                    {parameter.value === true ? "yes" : "no"}
                  </label>
                ) : (
                  <>
                    <Slider
                      label={parameter.name}
                      value={Number(parameter.value)}
                      {...range}
                      onChange={(value) => set(i, "value", Number(value.toFixed(10)))}
                    />
                    <NumberInput
                      label={`${parameter.name}, value`}
                      value={Number(parameter.value)}
                      onChange={(value) => set(i, "value", value)}
                    />
                  </>
                )}
              </div>
              <details>
                <summary className="truncate text-xs text-ink-soft hover:text-ink">
                  {parameter.about ?? "name, kind, range"}
                  {parameter.kind !== "yesNo" && <span> {`· ${parameter.min ?? "…"}–${parameter.max ?? "…"}`}</span>}
                </summary>
                <div className="grid grid-cols-3 gap-2 py-1.5">
                  <div className="text-sm text-ink-soft">
                    Name
                    <NameInput
                      label={`Name of ${parameter.name}`}
                      name={parameter.name}
                      taken={[...parameters, ...(draft.strategy.definitions ?? [])].map((one) => one.name)}
                      onRename={(name) => draft.change("rename", (before) => renameEverywhere(before, parameter.name, name))}
                      className="w-full text-ink"
                    />
                  </div>
                  <Select
                    label="Kind"
                    value={parameter.kind}
                    choices={KINDS}
                    onChange={(kind) => set(i, "kind", kind as Parameter["kind"])}
                  />
                  <span className="flex items-end justify-end">
                    <button
                      type="button"
                      onClick={() => remove(i)}
                      className="inline-flex items-center gap-1 p-1 text-sm text-ink-soft hover:text-ink"
                      aria-label={`Remove ${parameter.name}`}
                    >
                      <X size={13} aria-hidden /> remove
                    </button>
                  </span>
                  {parameter.kind !== "yesNo" && (
                    <>
                      <NumberInput
                        hideLabel={false}
                        label="Min"
                        value={parameter.min}
                        optional
                        onChange={(value) => set(i, "min", value)}
                      />
                      <NumberInput
                        hideLabel={false}
                        label="Max"
                        value={parameter.max}
                        optional
                        onChange={(value) => set(i, "max", value)}
                      />
                      <NumberInput
                        hideLabel={false}
                        label="Step"
                        value={parameter.step}
                        optional
                        onChange={(value) => set(i, "step", value)}
                      />
                    </>
                  )}
                  <label className="col-span-3 text-sm text-ink-soft">
                    About
                    <input
                      value={parameter.about ?? ""}
                      onChange={(event) => set(i, "about", event.target.value)}
                      className="w-full rounded-[4px] border border-edge bg-sheet px-1.5 py-0.5 text-ink"
                    />
                  </label>
                </div>
              </details>
              {own.map((problem, k) => (
                <p key={k} role="alert" className="text-sm text-clay">
                  {problem.message}
                </p>
              ))}
            </li>
          );
        })}
      </ul>
      <Button look="quiet" small className="mt-2" onClick={add}>
        <Plus size={13} aria-hidden /> Parameter
      </Button>
    </section>
  );
}
