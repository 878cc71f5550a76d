import { useState } from "react";
import { STATUSES, type Status } from "#server/status";
import type { ProbeView } from "#server/probe-views";
import type { StatusMove } from "#server/status-moves";
import { layerOf } from "#server/layers";
import { Button } from "~/design/button";
import { Select } from "~/design/field";
import { momentText } from "~/design/format";
import { Panel } from "~/design/panel";
import { LayerMark } from "~/design/strata";
import { stateWords } from "./layer-looks";
import { SignedAct } from "./signed-act";

interface Props {
  version: { id: number; number: number };
  status: Status;
  probes: readonly ProbeView[];
  moves: readonly StatusMove[];
}

/** How far the strategy has come, and the deliberate acts that moved it, each with the evidence that it rests on. */
export function StatusPanel({ version, status, probes, moves }: Props) {
  const [open, setOpen] = useState(false);
  const [after, setAfter] = useState<string>(STATUSES[Math.min(STATUSES.indexOf(status) + 1, STATUSES.length - 1)]);
  const usable = probes.filter((probe) => probe.state === "passed" || probe.state === "failed");
  const [named, setNamed] = useState<ReadonlySet<number>>(new Set());
  const toggle = (id: number) => setNamed((before) => new Set(before.has(id) ? [...before].filter((one) => one !== id) : [...before, id]));
  return (
    <Panel title={<span id="status">Status: {status}</span>} note="moves by a deliberate act that names the evidence it rests on">
      <Button small onClick={() => setOpen(true)}>
        Move it…
      </Button>
      {moves.length > 0 && (
        <ul aria-label="Moves of the status" className="mt-2">
          {moves.map((move) => (
            <li key={move.id} className="border-t border-edge/60 py-1.5">
              <span className="figure-text text-sm">{momentText(move.at)}</span> {move.before} → <b>{move.after}</b> with version{" "}
              {move.versionNumber}, by {move.name}: “{move.reason}”
              {move.evidence.length > 0 && (
                <span className="text-ink-soft">
                  {" "}
                  Rests on{" "}
                  {move.evidence.map(({ name, state, overruled }) => `${name} (${overruled ? "failed, overruled" : state})`).join(", ")}.
                </span>
              )}
            </li>
          ))}
        </ul>
      )}
      <SignedAct
        open={open}
        onOpenChange={setOpen}
        title="Move the status"
        about={`It is a ${status}. What it moves to rests on the layers of version ${version.number} that are named here.`}
        fields={{ intent: "status", version: String(version.id), status: after, evidence: JSON.stringify([...named]) }}
        act="Move it"
      >
        <Select
          label="Status"
          value={after}
          choices={STATUSES.filter((one) => one !== status).map((one) => ({ value: one, label: one }))}
          onChange={setAfter}
        />
        <fieldset>
          <legend className="text-sm text-ink-soft">Rests on</legend>
          {usable.length === 0 && <p className="text-ink-soft">No layer has passed or failed yet.</p>}
          {usable.map((probe) => {
            const layer = layerOf(probe);
            return (
              <label key={probe.id} className="flex items-center gap-2 py-0.5">
                <input type="checkbox" checked={named.has(probe.id)} onChange={() => toggle(probe.id)} />
                <LayerMark layer={layer} width={18} height={14} />
                {probe.name} <span className="text-ink-soft">{stateWords(layer)}</span>
              </label>
            );
          })}
        </fieldset>
      </SignedAct>
    </Panel>
  );
}
