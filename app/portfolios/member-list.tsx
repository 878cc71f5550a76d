import { useDroppable } from "@dnd-kit/core";
import { Settings2, Undo2, X } from "lucide-react";
import { useState } from "react";
import { Field, Select } from "~/design/field";
import { decimal, signedMoney } from "~/design/format";
import { Panel } from "~/design/panel";
import { Slider } from "~/design/slider";
import { Strata } from "~/design/strata";
import { symbolsIn, withoutMember, withWeight, type BuilderState, type Candidate, type Problem } from "./builder-state";

interface Props {
  state: BuilderState;
  /** null while estimated ones are not known */
  weights: readonly number[] | null;
  profits: readonly number[] | null;
  chosen: readonly (Candidate | undefined)[];
  problems: readonly Problem[];
  onChange: (next: BuilderState, kind?: string) => void;
  undo: (() => void) | null;
}

/** The members with their weights; versions of the library are dropped here. */
export function MemberList({ state, weights, profits, chosen, problems, onChange, undo }: Props) {
  const { setNodeRef, isOver } = useDroppable({ id: "members" });
  const [open, setOpen] = useState<number | null>(null);
  const byHand = state.weighting.mode === "given";
  return (
    <div ref={setNodeRef}>
      <Panel
        title="Members"
        note={byHand ? "weights are kept at 100 %: what one takes, the others give" : "weights are set by the choice on the right"}
        className={isOver ? "outline-2 outline-river" : ""}
        aside={
          undo !== null && (
            <button type="button" className="quiet-link inline-flex items-center gap-1" onClick={undo} title="Ctrl Z">
              <Undo2 size={13} aria-hidden /> undo
            </button>
          )
        }
      >
        {state.members.length === 0 && (
          <p className="py-4 text-ink-soft">
            Drag versions of the library here, or take them in with their button. Two or more make a portfolio.
          </p>
        )}
        <ul>
          {state.members.map((member, i) => (
            <li key={member.name} className="border-b border-edge/60 py-1.5 last:border-b-0">
              <div className="grid grid-cols-[24px_minmax(0,1.3fr)_minmax(0,1fr)_58px_76px_22px_22px] items-center gap-2.5">
                <Strata layers={chosen[i]?.layers ?? []} height={24} />
                <span className="min-w-0">
                  <span className="block truncate font-semibold">{member.name}</span>
                  <span className="block truncate text-sm text-ink-soft">
                    {chosen[i] === undefined ? "its version is gone" : `version ${chosen[i].number}, ${chosen[i].status}`} ·{" "}
                    {member.markets.length > 3 ? `${member.markets.length} markets` : member.markets.join(", ")}
                    {member.condition && " · switched by a condition"}
                  </span>
                </span>
                {byHand ? (
                  <Slider
                    label={`Weight of ${member.name}`}
                    value={Math.round(member.weight * 1000) / 10}
                    min={0}
                    max={100}
                    step={1}
                    onChange={(x) => onChange(withWeight(state, i, x / 100), `weight ${i}`)}
                  />
                ) : (
                  <span aria-hidden className="h-[3px] bg-edge">
                    <span className="block h-[3px] bg-ink-faint" style={{ width: `${100 * (weights?.[i] ?? 0)}%` }} />
                  </span>
                )}
                <span className="figure-text text-right" data-weight={member.name}>
                  {weights === null ? "–" : decimal(weights[i] * 100, 1)} %
                </span>
                <span className="figure-text text-right text-sm" title="its profit on this account">
                  {profits === null || profits[i] === undefined ? "" : signedMoney(profits[i])}
                </span>
                <button
                  type="button"
                  aria-label={`Markets and condition of ${member.name}`}
                  aria-expanded={open === i}
                  onClick={() => setOpen(open === i ? null : i)}
                  className="rounded p-1 text-ink-soft hover:text-ink"
                >
                  <Settings2 size={14} aria-hidden />
                </button>
                <button
                  type="button"
                  aria-label={`Remove ${member.name}`}
                  onClick={() => onChange(withoutMember(state, i))}
                  className="rounded p-1 text-ink-soft hover:text-ink"
                >
                  <X size={14} aria-hidden />
                </button>
              </div>
              {problems
                .filter(({ path }) => path.startsWith(`members[${i}]`))
                .map(({ message }) => (
                  <p key={message} role="alert" className="text-sm text-clay">
                    {message}
                  </p>
                ))}
              {open === i && <MemberDetails state={state} index={i} onChange={onChange} />}
            </li>
          ))}
        </ul>
      </Panel>
    </div>
  );
}

/** A member's markets, how many of them at once, and the condition that switches it. */
function MemberDetails({ state, index, onChange }: { state: BuilderState; index: number; onChange: Props["onChange"] }) {
  const member = state.members[index];
  const [markets, setMarkets] = useState(member.markets.join(", "));
  const change = (more: Partial<typeof member>, kind: string) =>
    onChange({ ...state, members: state.members.map((one, i) => (i === index ? { ...one, ...more } : one)) }, `${kind} ${index}`);
  const rule = member.condition?.rule ?? "";
  return (
    <div className="mt-1.5 grid grid-cols-[1fr_110px_1.6fr_110px] gap-2 pl-9">
      <Field
        label="Markets"
        value={markets}
        onChange={(event) => {
          setMarkets(event.target.value);
          change({ markets: symbolsIn(event.target.value) }, "markets");
        }}
      />
      <Field
        label="At most at once"
        placeholder="all"
        inputMode="numeric"
        value={member.marketLimit ?? ""}
        onChange={(event) => {
          const value = Number(event.target.value);
          change({ marketLimit: event.target.value === "" || !Number.isInteger(value) || value < 1 ? undefined : value }, "limit");
        }}
      />
      <Field
        label="Only while this condition"
        placeholder="close of SHORE10 > sma(close of SHORE10, 50)"
        value={rule}
        onChange={
          (event) =>
          change({ condition: event.target.value.trim() === "" ? undefined : { rule: event.target.value, while: member.condition?.while ?? "yes" } }, "rule") // prettier-ignore
        }
      />
      <Select
        label="says"
        value={member.condition?.while ?? "yes"}
        choices={[
          { value: "yes", label: "yes" },
          { value: "no", label: "no" },
        ]}
        onChange={(value) => rule !== "" && change({ condition: { rule, while: value === "no" ? "no" : "yes" } }, "while")}
      />
    </div>
  );
}
