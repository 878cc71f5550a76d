import { ArrowDown, ArrowUp, X } from "lucide-react";
import { useState } from "react";
import type { Cascade, Stage } from "#core/cascades";
import { PROBES } from "#core/probes";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { askedWords, formOf, inputOf } from "~/probes/form-state";
import { ProbeForm } from "~/probes/probe-form";

interface Props {
  cascade: Cascade;
  symbols: readonly string[];
  onChange: (cascade: Cascade) => void;
}

/** What may be a stage: all kinds but the one that opens a seal. */
const KINDS = [...PROBES.values()].filter((kind) => kind.needs !== "sealed");

const started = (probe: string): Stage => {
  const kind = PROBES.get(probe)!;
  const input = inputOf(kind, formOf(kind, null)) as Stage["input"];
  for (const field of kind.fields) if (field.kind === "date") input[field.key] = "70%";
  return { probe, input };
};

/** A cascade as a form: its name, its stages in their order, and what each asks. */
export function CascadeEditor({ cascade, symbols, onChange }: Props) {
  const [open, setOpen] = useState<number | null>(null);
  const [next, setNext] = useState(KINDS[0].kind);
  const { stages } = cascade;
  const set = (changed: Stage[]) => onChange({ ...cascade, stages: changed });
  const move = (k: number, by: number) => {
    const changed = [...stages];
    [changed[k], changed[k + by]] = [changed[k + by], changed[k]];
    set(changed);
    setOpen(null);
  };
  return (
    <div className="flex flex-col gap-2">
      <Field label="Name" value={cascade.name} onChange={(event) => onChange({ ...cascade, name: event.target.value })} />
      <Field label="What it is for" value={cascade.about ?? ""} onChange={(event) => onChange({ ...cascade, about: event.target.value })} />
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={cascade.goOn} onChange={(event) => onChange({ ...cascade, goOn: event.target.checked })} />
        Go on to the next stage after a failure, to see all of them
      </label>
      <ol aria-label="Stages" className="flex flex-col gap-1.5">
        {stages.map((stage, k) => {
          const kind = PROBES.get(stage.probe)!;
          return (
            <li key={k} className="rounded-[4px] border border-edge px-3 py-2">
              <div className="flex items-center gap-2">
                <span className="figure-text text-ink-soft">{k + 1}</span>
                <span className="min-w-0 flex-1">
                  <b>{kind.name}</b>{" "}
                  <span className="text-sm text-ink-soft">{askedWords(kind, stage.input.criteria) || "no criterion yet"}</span>
                </span>
                <Button small look="quiet" onClick={() => setOpen(open === k ? null : k)} aria-expanded={open === k}>
                  {open === k ? "Close" : "Change…"}
                </Button>
                <button
                  type="button"
                  aria-label={`${kind.name}: earlier`}
                  disabled={k === 0}
                  className="p-1 disabled:opacity-30"
                  onClick={() => move(k, -1)}
                >
                  <ArrowUp size={15} aria-hidden />
                </button>
                <button
                  type="button"
                  aria-label={`${kind.name}: later`}
                  disabled={k === stages.length - 1}
                  className="p-1 disabled:opacity-30"
                  onClick={() => move(k, 1)}
                >
                  <ArrowDown size={15} aria-hidden />
                </button>
                <button
                  type="button"
                  aria-label={`Take out ${kind.name}`}
                  className="p-1"
                  onClick={() => set(stages.filter((_, i) => i !== k))}
                >
                  <X size={15} aria-hidden />
                </button>
              </div>
              {open === k && (
                <div className="mt-2">
                  <StageForm
                    stage={stage}
                    symbols={symbols}
                    onDone={(changed) => {
                      set(stages.map((one, i) => (i === k ? changed : one)));
                      setOpen(null);
                    }}
                  />
                </div>
              )}
            </li>
          );
        })}
      </ol>
      <div className="flex items-end gap-2">
        <Select
          label="Another stage"
          value={next}
          choices={KINDS.map((kind) => ({ value: kind.kind, label: kind.name }))}
          onChange={setNext}
          className="w-64"
        />
        <Button onClick={() => set([...stages, started(next)])}>Add it</Button>
      </div>
      <p className="text-sm text-ink-soft">Put the cheap ones first: what they stop never reaches the dear ones.</p>
    </div>
  );
}

/** What one stage asks. A date is a share of each version’s window; what is searched are each version’s own ranges. */
function StageForm({ stage, symbols, onDone }: { stage: Stage; symbols: readonly string[]; onDone: (stage: Stage) => void }) {
  const kind = PROBES.get(stage.probe)!;
  const plain = { ...kind, fields: kind.fields.filter((field) => field.kind !== "date" && field.kind !== "search") };
  const dates = kind.fields.filter((field) => field.kind === "date");
  const [state, setState] = useState(() => formOf(plain, stage.input));
  const [shares, setShares] = useState<Record<string, string>>(() =>
    Object.fromEntries(dates.map(({ key }) => [key, String(stage.input[key] ?? "70%")])),
  );
  return (
    <>
      {dates.map((field) => (
        <Field
          key={field.key}
          label={`${field.label}: a share of the window, or a date`}
          value={shares[field.key]}
          onChange={(event) => setShares({ ...shares, [field.key]: event.target.value })}
          className="mb-2 w-64"
        />
      ))}
      <ProbeForm kind={plain} state={state} onChange={setState} symbols={symbols} searches={[]} />
      <Button
        small
        className="mt-2"
        onClick={() => onDone({ probe: stage.probe, input: { ...inputOf(plain, state), ...shares } as Stage["input"] })}
      >
        Take it over
      </Button>
    </>
  );
}
