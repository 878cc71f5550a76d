import { useCallback, useEffect, useMemo, useState } from "react";
import { Link, useSearchParams } from "react-router";
import type { Settings, Strategy } from "#core/documents";
import { renameEverywhere } from "#core/editing";
import { compileStrategy } from "#core/engine";
import type { LibraryDefinition } from "#core/library";
import type { MarketView } from "#server/markets";
import type { NamedSettings } from "#server/run-settings";
import type { TrialLedger } from "#server/strategies";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { Panel, Problems } from "~/design/panel";
import { allUnder, underOf } from "~/run-settings/under";
import { UnderChoice } from "~/run-settings/under-choice";
import { SettingsForm } from "~/runs/settings-form";
import { stateOfSettings, type SettingsState } from "~/runs/settings-state";
import { useBacktest } from "~/runs/use-backtest";
import { useRunSettings } from "~/runs/use-run-settings";
import { isTyping } from "~/shell/keys";
import { Beside } from "./beside";
import { useDraft } from "./draft";
import { LiveResult } from "./live-result";
import { Parameters } from "./parameters";
import { RenameBox } from "./rename-box";
import { RuleFormContext, type RuleForm } from "./rule-field";
import { RulesPanel } from "./rules-panel";
import { SaveDialog } from "./save-dialog";
import { Tried, TrialsSpent } from "./tried";
import { useKeptDraft } from "./use-kept-draft";
import { useSave } from "./use-save";
import { useTries } from "./use-tries";
import { VariantsTable } from "./variants-table";
import { WhyHere } from "./why/why-here";
import { valueText } from "./why/tree";
import { namesOf } from "./words/names";

interface WorkbenchProps {
  /** what is saved; a new strategy starts from a blank one */
  saved: Strategy;
  /** changes that the address asks for */
  start: Strategy;
  /** `basedOn`: the newest version's number when the page was loaded, which the next one must follow */
  version: { id: number; strategyId: number; number: number; basedOn: number } | null;
  markets: readonly MarketView[];
  library: readonly LibraryDefinition[];
  /** run settings that the version was last looked at with */
  lastSettings: SettingsState | null;
  ledger: TrialLedger | null;
  /** run settings of one's own, and those of them that the address lays over the ones at hand */
  named: readonly NamedSettings[];
  laidOver: NamedSettings | null;
  head: (actions: React.ReactNode, changed: boolean) => React.ReactNode;
}

const TIMEFRAMES = [
  ...["1m", "5m", "10m", "15m", "20m", "30m", "1h", "2h", "3h", "4h"].map((value) => ({ value, label: value })),
  { value: "1d", label: "1d, daily" },
  { value: "1w", label: "1w, weekly" },
  { value: "1M", label: "1M, monthly" },
];

const enters = (strategy: Strategy): boolean => strategy.long?.enter !== undefined || strategy.short?.enter !== undefined;

/** The place where rules are written: rules and parameters on the left, their result at once on the right. */
export function Workbench({ saved, start, version, markets, library, lastSettings, ledger, named, laidOver, head }: WorkbenchProps) {
  const key = version === null ? "new" : `${version.strategyId}.${version.number}`;
  const draft = useDraft(saved, start, key);
  const { strategy, change, undo, redo } = draft;
  useKeptDraft(key, saved, start, draft.reset);
  const [params, setParams] = useSearchParams();
  const look = (name: string, value: string | null) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        if (value === null) next.delete(name);
        else next.set(name, value);
        return next;
      },
      { replace: true, preventScrollReset: true },
    );

  const compiled = useMemo(() => compileStrategy(strategy), [strategy]);
  const { problems } = compiled;
  const address = params.get("under");
  const { under, lost } = useMemo(() => underOf(address, laidOver), [address, laidOver]);
  const run = useRunSettings({
    markets,
    last: lastSettings,
    timeframe: strategy.timeframe,
    extras: (compiled.value?.extras.length ?? 0) > 0,
    under,
  });
  const { settings, market } = run;
  const live = useBacktest(compiled.value !== null && enters(strategy) ? strategy : null, settings);
  const against = params.get("against") === "version" && version !== null ? "version" : "try";
  const savedRuns = useMemo(() => compileStrategy(saved).value !== null && enters(saved), [saved]);
  const savedLive = useBacktest(version !== null && against === "version" && draft.changed && savedRuns ? saved : null, settings, false);
  const tries = useTries(live, strategy, settings, version?.strategyId ?? null, ledger);
  const save = useSave({ key, strategy, settings, hand: run.hand, under, version, tries: tries.unsent });
  const canSave = problems.length === 0 && enters(strategy) && (draft.changed || version === null) && !save.busy;
  const [saving, setSaving] = useState(false);
  const askNote = useCallback(() => (version === null ? save.send("save") : setSaving(true)), [save, version]);

  const choices = useMemo(() => allUnder(named), [named]);
  const why = params.get("look") === "why";
  const barTime = params.get("bar") === null ? null : Number(params.get("bar"));
  const missing = (compiled.value?.others ?? []).filter(
    (symbol) => settings !== null && !settings.markets.some((one) => one.symbol === symbol),
  );

  // variants by keystroke: of the definition that has the focus, else of the first that has some
  const cycle = useCallback(
    (by: number) =>
      change("variant", (before) => {
        const several = (before.definitions ?? []).map((definition) => (definition.variants?.length ?? 0) > 1);
        const focus = Number(document.activeElement?.closest<HTMLElement>("[data-definition]")?.dataset.definition ?? -1);
        const at = several[focus] ? focus : several.indexOf(true);
        if (at < 0) return before;
        const definition = before.definitions![at];
        const count = definition.variants!.length;
        const chosen = (((definition.chosen ?? 1) - 1 + by + count) % count) + 1;
        return { ...before, definitions: before.definitions!.map((one, i) => (i === at ? { ...one, chosen } : one)) };
      }),
    [change],
  );

  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const command = event.ctrlKey || event.metaKey;
      if (command && event.key.toLowerCase() === "s") {
        event.preventDefault();
        if (canSave) askNote();
      } else if (command && !isTyping(event) && event.key.toLowerCase() === "z") {
        event.preventDefault();
        if (event.shiftKey) redo();
        else undo();
      } else if (event.altKey && (event.key === "ArrowDown" || event.key === "ArrowUp")) {
        event.preventDefault();
        cycle(event.key === "ArrowDown" ? 1 : -1);
      }
    };
    document.addEventListener("keydown", listen);
    return () => document.removeEventListener("keydown", listen);
  }, [canSave, askNote, undo, redo, cycle]);

  const form = params.get("form") === "words" ? "words" : "text";
  const [renaming, setRenaming] = useState<string | null>(null);
  const names = useMemo(() => namesOf(strategy, library), [strategy, library]);
  const { ask } = live;
  const rules: RuleForm = {
    form,
    setForm: (next) => look("form", next === "words" ? "words" : null),
    names,
    problems,
    rename: setRenaming,
    reading:
      barTime === null || market === undefined
        ? null
        : async (text) => {
            const answer = await ask({ what: "value", symbol: market.symbol, time: barTime, text });
            if (answer.what !== "value") return null;
            return { value: valueText(answer.value, answer.kind), at: `on ${new Date(barTime).toISOString().slice(0, 10)}` };
          },
  };

  const actions = (
    <>
      <Button look="quiet" onClick={undo} disabled={!draft.canUndo}>
        Undo
      </Button>
      <Button look="quiet" onClick={redo} disabled={!draft.canRedo}>
        Redo
      </Button>
      {version !== null && (
        <>
          <Button look="plain" asChild>
            <Link to={`/optimizations/new?version=${version.id}&market=${run.state.market}${under === null ? "" : `&under=${under.key}`}`}>
              Optimize…
            </Link>
          </Button>
          <Button
            onClick={() => save.send("run")}
            disabled={draft.changed || settings === null || save.busy}
            title={
              draft.changed ? "Save the change as a version first; a run belongs to a version" : "Store this result with its fingerprint"
            }
          >
            Save run
          </Button>
        </>
      )}
      <Button look="primary" onClick={askNote} disabled={!canSave} title="Ctrl S">
        {save.busy ? "Saving …" : version === null ? "Save" : `Save as version ${version.basedOn + 1}`}
      </Button>
    </>
  );

  const before = against === "version" ? (draft.changed ? savedLive.view : null) : (tries.before?.view ?? null);
  return (
    <RuleFormContext value={rules}>
      {head(actions, draft.changed)}
      {save.answer && save.answer.problems.length > 0 && (
        <div className="mb-3">
          <Problems problems={save.answer.problems} title="Not saved" />
          {save.answer.conflict && (
            <div className="mt-2 flex gap-2">
              <Button onClick={() => save.send("save", { evenSo: true })}>Save it as the newest version all the same</Button>
              <Button look="quiet" asChild>
                <Link to={`/strategies/${version!.strategyId}/versions`}>Look at the other version</Link>
              </Button>
            </div>
          )}
        </div>
      )}
      {version !== null && (
        <SaveDialog
          open={saving}
          onOpenChange={setSaving}
          saved={saved}
          strategy={strategy}
          number={version.basedOn + 1}
          origin={params.get("origin") ?? ""}
          onSave={(note) => {
            setSaving(false);
            save.send("save", { note });
          }}
        />
      )}
      {why && market ? (
        <WhyHere
          strategy={strategy}
          live={live}
          market={market}
          time={barTime}
          onTime={(time) => look("bar", String(time))}
          onClose={() => look("look", null)}
        />
      ) : (
        <div className="grid grid-cols-[minmax(330px,370px)_1fr] items-start gap-3">
          <div className="flex flex-col gap-2 rounded-[4px] border border-edge bg-sheet px-3.5 py-3">
            <div className="grid grid-cols-[1fr_130px] gap-2">
              <Field
                label="Name"
                value={strategy.name ?? ""}
                onChange={(event) => change("name", (old) => ({ ...old, name: event.target.value }))}
                error={(strategy.name ?? "").trim() === "" ? "a strategy needs a name" : undefined}
              />
              <Select
                label="Timeframe"
                value={strategy.timeframe}
                choices={
                  TIMEFRAMES.some((t) => t.value === strategy.timeframe)
                    ? TIMEFRAMES
                    : [...TIMEFRAMES, { value: strategy.timeframe, label: strategy.timeframe }]
                }
                onChange={(timeframe) => change("timeframe", (old) => ({ ...old, timeframe }))}
              />
            </div>
            <Parameters draft={draft} problems={problems} />
            <div className="border-t border-edge pt-2">
              <div className="float-right text-sm text-ink-soft" role="group" aria-label="How rules are shown">
                {(["words", "text"] as const).map((one, i) => (
                  <span key={one}>
                    {i > 0 && " · "}
                    <button
                      type="button"
                      aria-pressed={form === one}
                      onClick={() => rules.setForm(one)}
                      className={form === one ? "font-semibold text-ink" : "quiet-link"}
                    >
                      {one === "words" ? "sentences" : "text"}
                    </button>
                  </span>
                ))}
              </div>
              <RulesPanel draft={draft} />
            </div>
            <section aria-label="Notes" className="border-t border-edge pt-2">
              <h2 className="text-lg">Notes</h2>
              <textarea
                aria-label="Notes: why this should work"
                placeholder="why this should work"
                value={strategy.notes ?? ""}
                onChange={(event) => change("notes", (old) => ({ ...old, notes: event.target.value }))}
                rows={3}
                className="w-full rounded-[4px] border border-edge bg-sheet px-2 py-1 placeholder:text-ink-soft"
              />
            </section>
          </div>
          <div className="sticky top-3 max-h-[calc(100vh-24px)] min-w-0 overflow-y-auto">
            <Panel className="mb-3">
              <UnderChoice all={choices} under={under} settings={settings} onChange={run.setUnder} />
              <SettingsForm state={run.state} markets={markets} problems={run.problems} onChange={run.setState} onMarket={run.setMarket} />
              <div className="mt-2 empty:hidden">
                {(run.problems.length > 0 || lost) && (
                  <Problems
                    problems={[
                      ...(lost
                        ? [{ path: "", message: "the run settings that this address names do not exist; those below are in force" }]
                        : []),
                      ...run.problems.filter((p) => !(p.path in run.state) || p.path === "market" || under !== null),
                    ]}
                    title="The run settings need a look"
                  />
                )}
              </div>
              {missing.length > 0 && (
                <p className="mt-2 text-sm">
                  A rule looks at {missing.join(", ")}.{" "}
                  <button
                    type="button"
                    className="quiet-link"
                    onClick={() => run.setState({ ...run.state, others: [run.state.others, ...missing].filter((x) => x !== "").join(",") })}
                  >
                    Take {missing.length === 1 ? "it" : "them"} into the run
                  </button>
                </p>
              )}
            </Panel>
            <VariantsTable strategy={strategy} live={live} settings={settings} draft={draft} onCount={tries.count} />
            <LiveResult
              live={live}
              timeframe={strategy.timeframe}
              before={before}
              beforeName={against === "version" ? `version ${version?.number ?? 1} as saved` : "the try before"}
              onAgainst={version === null ? undefined : () => look("against", against === "try" ? "version" : null)}
              market={market}
              markets={markets}
              currency={market?.currency ?? ""}
              name={strategy.name ?? "strategy"}
              onWhy={(time) =>
                setParams(
                  (old) => {
                    const next = new URLSearchParams(old);
                    next.set("look", "why");
                    if (time !== null) next.set("bar", String(time));
                    return next;
                  },
                  { preventScrollReset: true },
                )
              }
            />
            <Beside strategy={strategy} live={live} settings={settings} all={choices} markets={markets} onCount={tries.count} />
            {tries.list.length < 2 ? (
              <p className="mt-2 text-right text-sm text-ink-soft">
                <TrialsSpent ledger={tries.ledger} />
              </p>
            ) : (
              <Tried
                tries={tries.list}
                current={live.of}
                ledger={tries.ledger}
                base={savedLive.view?.metrics.all ?? null}
                onTake={(taken) => change("take up a try", () => taken)}
              />
            )}
          </div>
        </div>
      )}
      {renaming !== null && (
        <RenameBox
          name={renaming}
          taken={[...names.parameters, ...names.definitions.map((one) => one.name)]}
          onRename={(to) => {
            change("rename", (old) => renameEverywhere(old, renaming, to));
            setRenaming(null);
          }}
          onClose={() => setRenaming(null)}
        />
      )}
    </RuleFormContext>
  );
}

/** A state of stored settings, or null. */
export const lastSettingsOf = (settings: Settings | null): SettingsState | null => (settings === null ? null : stateOfSettings(settings));
export type { SaveAnswer } from "./use-save";
