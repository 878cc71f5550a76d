import { useCallback, useEffect, useMemo, useRef } from "react";
import { Link, useFetcher, useNavigate, useSearchParams } from "react-router";
import type { Settings, Strategy } from "#core/documents";
import { compileStrategy } from "#core/engine";
import type { MarketView } from "#server/markets";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { Panel, Problems } from "~/design/panel";
import { useNotice } from "~/design/toast";
import { SettingsForm } from "~/runs/settings-form";
import { settingsOf, startSettings, stateOfSettings, toAddress, withAddress, type SettingsState } from "~/runs/settings-state";
import { useSeries } from "~/markets/use-series";
import { useBacktest } from "~/runs/use-backtest";
import { isTyping } from "~/shell/keys";
import { keptDraft, useDraft } from "./draft";
import { LiveResult } from "./live-result";
import { Parameters } from "./parameters";
import { RulesPanel } from "./rules-panel";

export interface SaveAnswer {
  saved: { strategyId: number; number: number } | null;
  run: number | null;
  conflict: boolean;
  problems: { path: string; message: string }[];
}

interface WorkbenchProps {
  /** what is saved; a new strategy starts from a blank one */
  saved: Strategy;
  /** changes that the address asks for */
  start: Strategy;
  /** `basedOn`: the newest version's number when the page was loaded, which the next one must follow */
  version: { id: number; strategyId: number; number: number; basedOn: number } | null;
  markets: readonly MarketView[];
  /** run settings that the version was last looked at with */
  lastSettings: SettingsState | null;
  head: (actions: React.ReactNode, changed: boolean) => React.ReactNode;
}

const TIMEFRAMES = [
  ...["1m", "5m", "10m", "15m", "20m", "30m", "1h", "2h", "3h", "4h"].map((value) => ({ value, label: value })),
  { value: "1d", label: "1d, daily" },
  { value: "1w", label: "1w, weekly" },
  { value: "1M", label: "1M, monthly" },
];

/** The place where rules are written: rules and parameters on the left, their result at once on the right. */
export function Workbench({ saved, start, version, markets, lastSettings, head }: WorkbenchProps) {
  const key = `canyon.draft.${version === null ? "new" : `${version.strategyId}.${version.number}`}`;
  const draft = useDraft(saved, start, key);
  const notice = useNotice();
  const navigate = useNavigate();
  const fetcher = useFetcher<SaveAnswer>();
  const [params, setParams] = useSearchParams();
  const { reset, undo, redo } = draft;

  useEffect(() => {
    const kept = keptDraft(key);
    if (kept === null || JSON.stringify(kept) === JSON.stringify(start)) return;
    if (start !== saved) return;
    reset(kept);
    notice({ text: "An unsaved change was brought back.", action: { label: "Discard it", run: () => reset(saved) } });
    // once, when the page opens
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key]);

  const base = useMemo(() => {
    const first = markets.find((market) => market.symbol === lastSettings?.market) ?? markets[0];
    return lastSettings ?? startSettings(first);
  }, [markets, lastSettings]);
  const state = useMemo(() => {
    const symbol = params.get("market");
    const other = symbol !== null && symbol !== base.market ? markets.find((market) => market.symbol === symbol) : undefined;
    return withAddress(other ? { ...startSettings(other), from: base.from, to: base.to, capital: base.capital } : base, params);
  }, [base, params, markets]);
  const setState = useCallback(
    (next: SettingsState) => setParams((before) => toAddress(next, base, before), { replace: true, preventScrollReset: true }),
    [setParams, base],
  );
  const market = markets.find((m) => m.symbol === state.market);
  const compiled = useMemo(() => compileStrategy(draft.strategy), [draft.strategy]);
  const extras = compiled.value?.extras.join() ?? "";
  const series = useSeries(market?.symbol ?? null, extras !== "");
  const used = useMemo(
    () =>
      series === null || extras === ""
        ? null
        : Object.fromEntries(extras.split(",").flatMap((name) => (series[name] ? [[name, series[name]]] : []))),
    [series, extras],
  );
  const chosen = useMemo(() => settingsOf(state, market, draft.strategy.timeframe, used), [state, market, draft.strategy.timeframe, used]);
  const problems = compiled.problems;
  const enters = draft.strategy.long?.enter !== undefined || draft.strategy.short?.enter !== undefined;
  const live = useBacktest(compiled.value !== null && enters ? draft.strategy : null, chosen.settings);
  const savedRuns = useMemo(
    () => compileStrategy(saved).value !== null && (saved.long?.enter !== undefined || saved.short?.enter !== undefined),
    [saved],
  );
  const beforeLive = useBacktest(version !== null && draft.changed && savedRuns ? saved : null, chosen.settings, false);

  const submit = useCallback(
    (intent: "save" | "run", evenSo = false) =>
      void fetcher.submit(
        {
          intent,
          document: JSON.stringify(draft.strategy),
          settings: JSON.stringify(chosen.settings),
          basedOn: String(version?.basedOn ?? 0),
          version: String(version?.id ?? ""),
          evenSo: evenSo ? "yes" : "",
        },
        { method: "post" },
      ),
    [fetcher, draft.strategy, chosen.settings, version?.basedOn, version?.id],
  );
  const busy = fetcher.state !== "idle";
  const canSave = problems.length === 0 && enters && (draft.changed || version === null) && !busy;

  const answer = fetcher.data;
  const answered = useRef<SaveAnswer | null>(null);
  useEffect(() => {
    // going on while the page's data is still being loaded again would lose the new page
    if (!answer || fetcher.state !== "idle" || answered.current === answer) return;
    answered.current = answer;
    if (answer.saved) {
      sessionStorage.removeItem(key);
      notice({ text: `Saved as version ${answer.saved.number}.` });
      const next = new URLSearchParams(params);
      next.delete("set");
      next.delete("v");
      void navigate(`/strategies/${answer.saved.strategyId}?${next}`, { replace: version !== null });
    } else if (answer.run !== null) void navigate(`/runs/${answer.run}`);
    // an answer counts once
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [answer, fetcher.state]);

  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const command = event.ctrlKey || event.metaKey;
      if (command && event.key.toLowerCase() === "s") {
        event.preventDefault();
        if (canSave) submit("save");
      } else if (command && !isTyping(event) && event.key.toLowerCase() === "z") {
        event.preventDefault();
        if (event.shiftKey) redo();
        else undo();
      }
    };
    document.addEventListener("keydown", listen);
    return () => document.removeEventListener("keydown", listen);
  }, [canSave, submit, undo, redo]);

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
            <Link to={`/optimizations/new?version=${version.id}&market=${state.market}`}>Optimize…</Link>
          </Button>
          <Button
            onClick={() => submit("run")}
            disabled={draft.changed || chosen.settings === null || busy}
            title={
              draft.changed ? "Save the change as a version first; a run belongs to a version" : "Store this result with its fingerprint"
            }
          >
            Save run
          </Button>
        </>
      )}
      <Button look="primary" onClick={() => submit("save")} disabled={!canSave} title="Ctrl S">
        {busy ? "Saving …" : version === null ? "Save" : `Save as version ${version.basedOn + 1}`}
      </Button>
    </>
  );

  return (
    <>
      {head(actions, draft.changed)}
      {answer && answer.problems.length > 0 && (
        <div className="mb-3">
          <Problems problems={answer.problems} title="Not saved" />
          {answer.conflict && (
            <div className="mt-2 flex gap-2">
              <Button onClick={() => submit("save", true)}>Save it as the newest version all the same</Button>
              <Button look="quiet" asChild>
                <Link to={`/strategies/${version!.strategyId}/versions`}>Look at the other version</Link>
              </Button>
            </div>
          )}
        </div>
      )}
      <div className="grid grid-cols-[minmax(330px,370px)_1fr] items-start gap-3">
        <div className="flex flex-col gap-2 rounded-[4px] border border-edge bg-sheet px-3.5 py-3">
          <div className="grid grid-cols-[1fr_130px] gap-2">
            <Field
              label="Name"
              value={draft.strategy.name ?? ""}
              onChange={(event) => draft.change("name", (before) => ({ ...before, name: event.target.value }))}
              error={(draft.strategy.name ?? "").trim() === "" ? "a strategy needs a name" : undefined}
            />
            <Select
              label="Timeframe"
              value={draft.strategy.timeframe}
              choices={
                TIMEFRAMES.some((t) => t.value === draft.strategy.timeframe)
                  ? TIMEFRAMES
                  : [...TIMEFRAMES, { value: draft.strategy.timeframe, label: draft.strategy.timeframe }]
              }
              onChange={(timeframe) => draft.change("timeframe", (before) => ({ ...before, timeframe }))}
            />
          </div>
          <Parameters draft={draft} problems={problems} />
          <div className="border-t border-edge pt-2">
            <RulesPanel draft={draft} problems={problems} />
          </div>
          <section aria-label="Notes" className="border-t border-edge pt-2">
            <h2 className="text-lg">Notes</h2>
            <textarea
              aria-label="Notes: why this should work"
              placeholder="why this should work"
              value={draft.strategy.notes ?? ""}
              onChange={(event) => draft.change("notes", (before) => ({ ...before, notes: event.target.value }))}
              rows={3}
              className="w-full rounded-[4px] border border-edge bg-sheet px-2 py-1 placeholder:text-ink-soft"
            />
          </section>
        </div>
        <div className="min-w-0">
          <Panel className="mb-3">
            <SettingsForm
              state={state}
              markets={markets}
              problems={chosen.problems}
              onChange={setState}
              onMarket={(symbol) =>
                setState({
                  ...startSettings(markets.find((m) => m.symbol === symbol)),
                  from: state.from,
                  to: state.to,
                  capital: state.capital,
                })
              }
            />
            <div className="mt-2 empty:hidden">
              {chosen.problems.length > 0 && (
                <Problems
                  problems={chosen.problems.filter((p) => !(p.path in state) || p.path === "market")}
                  title="The run settings need a look"
                />
              )}
            </div>
          </Panel>
          <LiveResult
            live={live}
            timeframe={draft.strategy.timeframe}
            before={version !== null && draft.changed ? beforeLive.view : null}
            beforeName={version === null ? "" : `version ${version.number} as saved`}
            market={market}
            currency={market?.currency ?? ""}
            name={draft.strategy.name ?? "strategy"}
          />
        </div>
      </div>
    </>
  );
}

/** A state of stored settings, or null. */
export const lastSettingsOf = (settings: Settings | null): SettingsState | null => (settings === null ? null : stateOfSettings(settings));
