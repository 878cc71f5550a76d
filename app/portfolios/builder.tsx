import { DndContext, DragOverlay, KeyboardSensor, PointerSensor, useSensor, useSensors } from "@dnd-kit/core";
import { useMemo, useState } from "react";
import { useFetcher } from "react-router";
import type { Costs } from "#core/documents";
import type { MarketView } from "#server/markets";
import { Button } from "~/design/button";
import { Field } from "~/design/field";
import { Panel, Problems } from "~/design/panel";
import { asksForSeries, useSeriesOf } from "~/markets/use-series";
import { AccountForm } from "./account-form";
import { settingsOfState, weightingProblems, withMember, type BuilderState, type Candidate, type Problem } from "./builder-state";
import { CandidateList } from "./candidate-list";
import { LivePanel } from "./live-panel";
import { MemberList } from "./member-list";
import { useHistory } from "./use-history";
import { useLivePortfolio } from "./use-live-portfolio";
import { WeightingForm } from "./weighting-form";

interface Props {
  start: BuilderState;
  candidates: readonly Candidate[];
  markets: readonly MarketView[];
  revision: number;
  /** costs of a portfolio that is changed; null for a new one */
  savedCosts: Costs | null;
}

/** Members from the library, their weights and their account, with what they come to at once. */
export function Builder({ start, candidates, markets, revision, savedCosts }: Props) {
  const fetcher = useFetcher<{ problems: Problem[] }>();
  const { state, set, undo } = useHistory(start);
  const [note, setNote] = useState("");
  const [dragged, setDragged] = useState<string | null>(null);
  const symbols = useMemo(() => markets.map(({ symbol }) => symbol), [markets]);
  const chosen = useMemo(
    () => state.members.map(({ versionId }) => candidates.find((one) => one.versionId === versionId)),
    [state.members, candidates],
  );
  const extras = chosen.some((one) => one !== undefined && asksForSeries(JSON.stringify(one.strategy)));
  const traded = useMemo(() => [...new Set(state.members.flatMap((member) => member.markets))], [state.members]);
  const series = useSeriesOf(traded, extras);
  const { settings, problems: faults } = useMemo(
    () => settingsOfState(state, candidates, markets, series ?? {}, savedCosts),
    [state, candidates, markets, series, savedCosts],
  );
  const typed = [...faults, ...weightingProblems(state)];
  const asked = useMemo(() => {
    if (settings === null || typed.length > 0 || state.members.length < 2 || (extras && series === null) || chosen.includes(undefined))
      return null;
    return {
      members: state.members.map(({ versionId: _versionId, ...member }, i) => ({ ...member, strategy: chosen[i]!.strategy })),
      settings,
      weighting: state.weighting,
    };
    // what is typed wrong is part of the state
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [settings, state, chosen, series, extras]);
  const live = useLivePortfolio(asked);
  const add = (candidate: Candidate) => set(withMember(state, candidate, symbols));
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }), useSensor(KeyboardSensor));
  const weights = state.weighting.mode === "given" ? state.members.map(({ weight }) => weight) : (live.view?.weights ?? null);
  const save = () => {
    const members = state.members.map((member, i) => ({ ...member, weight: weights?.[i] ?? member.weight }));
    const document = JSON.stringify({ members, settings, weighting: state.weighting });
    void fetcher.submit({ intent: "save", name: state.name, note, revision: String(revision), document }, { method: "post" });
  };
  const problems = [...typed, ...live.problems, ...(fetcher.data?.problems ?? [])];
  const drafts = chosen.filter((one) => one !== undefined && !one.survivor);
  return (
    <DndContext
      sensors={sensors}
      onDragStart={({ active }) =>
        setDragged(candidates.find(({ versionId }) => `version ${versionId}` === String(active.id))?.name ?? null)
      }
      onDragCancel={() => setDragged(null)}
      onDragEnd={({ active, over }) => {
        setDragged(null);
        const candidate = candidates.find(({ versionId }) => `version ${versionId}` === String(active.id));
        if (over !== null && candidate !== undefined) add(candidate);
      }}
    >
      <div className="grid grid-cols-[minmax(0,1fr)_330px] items-start gap-3">
        <div className="flex min-w-0 flex-col gap-3">
          <MemberList
            state={state}
            weights={weights}
            profits={live.view?.profits ?? null}
            chosen={chosen}
            problems={problems}
            onChange={set}
            undo={undo}
          />
          {drafts.length > 0 && (
            <p className="border-l-4 border-ochre px-3 py-1" role="note">
              {drafts.map((one) => one!.name).join(", ")} {drafts.length === 1 ? "is no survivor" : "are no survivors"}: what has not been
              doubted enough is tried with made-up money, not put on an account.
            </p>
          )}
          <LivePanel
            live={live}
            capital={settings?.capital ?? 1}
            currency={settings?.currency ?? ""}
            members={state.members.length}
            weighting={state.weighting}
          />
        </div>
        <div className="flex flex-col gap-3">
          <Panel>
            <Field
              label="Name"
              value={state.name}
              onChange={(event) => set({ ...state, name: event.target.value }, "name")}
              error={problems.find((p) => p.path === "name")?.message}
            />
            <Field className="mt-1.5" label="Why (kept with this state)" value={note} onChange={(event) => setNote(event.target.value)} />
            <div className="mt-2.5 flex items-center gap-2">
              <Button
                look="primary"
                onClick={save}
                disabled={fetcher.state !== "idle" || settings === null || state.members.length < 2 || typed.length > 0}
              >
                {fetcher.state !== "idle" ? "Computing …" : revision === 0 ? "Save" : "Save as the next state"}
              </Button>
              {state.members.length < 2 && <span className="text-sm text-ink-soft">two members or more</span>}
            </div>
            <div className="mt-2 empty:hidden">
              <Problems problems={problems.filter(({ path }) => path !== "name")} title="Not as it stands" />
            </div>
          </Panel>
          <CandidateList candidates={candidates} state={state} onAdd={add} />
          <WeightingForm state={state} onChange={set} problems={problems} />
          <AccountForm state={state} onChange={set} markets={markets} saved={savedCosts !== null} problems={problems} />
        </div>
      </div>
      <DragOverlay>
        {dragged !== null && <div className="rounded-[4px] border border-ink bg-sheet px-2.5 py-1 shadow-md">{dragged}</div>}
      </DragOverlay>
    </DndContext>
  );
}
