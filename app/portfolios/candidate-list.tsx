import { useDraggable } from "@dnd-kit/core";
import { GripVertical, Plus } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { Field } from "~/design/field";
import { Panel } from "~/design/panel";
import { Strata } from "~/design/strata";
import type { BuilderState, Candidate } from "./builder-state";

/** Versions of the library, survivors first: dragged among the members, or taken in by their button. */
export function CandidateList({
  candidates,
  state,
  onAdd,
}: {
  candidates: readonly Candidate[];
  state: BuilderState;
  onAdd: (candidate: Candidate) => void;
}) {
  const [find, setFind] = useState("");
  const wanted = find.trim().toLowerCase();
  const shown = candidates.filter(({ name, markets }) => wanted === "" || `${name} ${markets.join(" ")}`.toLowerCase().includes(wanted));
  const survivors = shown.filter(({ survivor }) => survivor);
  const others = shown.filter(({ survivor }) => !survivor);
  const list = (of: readonly Candidate[]) => (
    <ul>
      {of.map((candidate) => (
        <Entry
          key={candidate.versionId}
          candidate={candidate}
          taken={state.members.some(({ versionId }) => versionId === candidate.versionId)}
          onAdd={() => onAdd(candidate)}
        />
      ))}
    </ul>
  );
  return (
    <Panel title="From the library">
      {candidates.length === 0 ? (
        <p className="text-ink-soft">
          Nothing is in the library yet. <Link to="/library">Write a strategy first</Link>.
        </p>
      ) : (
        <>
          <Field label="Find" value={find} onChange={(event) => setFind(event.target.value)} placeholder="name or market" />
          <h3 className="mt-2 text-sm text-ink-soft">survivors and what is in a forward test</h3>
          {survivors.length === 0 ? (
            <p className="py-1 text-sm">none so far; what follows comes with a warning</p>
          ) : (
            <div className="max-h-52 overflow-y-auto" tabIndex={0} role="region" aria-label="Survivors">
              {list(survivors)}
            </div>
          )}
          {others.length > 0 && <h3 className="mt-2 text-sm text-ink-soft">not doubted enough yet</h3>}
          <div className="max-h-44 overflow-y-auto" tabIndex={0} role="region" aria-label="Versions that are no survivors">
            {list(others)}
          </div>
        </>
      )}
    </Panel>
  );
}

function Entry({ candidate, taken, onAdd }: { candidate: Candidate; taken: boolean; onAdd: () => void }) {
  const { attributes, listeners, setNodeRef, isDragging } = useDraggable({ id: `version ${candidate.versionId}` });
  return (
    <li
      ref={setNodeRef}
      className={`flex items-center gap-2 border-b border-edge/60 py-1 last:border-b-0 ${isDragging ? "opacity-50" : ""}`}
    >
      <button
        type="button"
        {...attributes}
        {...listeners}
        aria-label={`Drag ${candidate.name}`}
        className="cursor-grab touch-none rounded select-none p-0.5 text-ink-soft"
      >
        <GripVertical size={14} aria-hidden />
      </button>
      <Strata layers={candidate.layers} height={20} />
      <span className="min-w-0 flex-1">
        <span className="block truncate">{candidate.name}</span>
        <span className="block truncate text-sm text-ink-soft">
          {candidate.status} ·{" "}
          {candidate.markets.length > 3 ? `${candidate.markets.length} markets` : candidate.markets.join(", ") || "never run"}
          {taken && " · taken in"}
        </span>
      </span>
      <button
        type="button"
        aria-label={`Take in ${candidate.name}`}
        onClick={onAdd}
        className="rounded border border-edge p-1 hover:border-ink"
      >
        <Plus size={13} aria-hidden />
      </button>
    </li>
  );
}
