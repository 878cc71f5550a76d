import { useEffect, useMemo, useRef, useState } from "react";
import { data, useFetcher, useSearchParams } from "react-router";
import { checkRule, EMPTY_SCOPE } from "#core/rules";
import { DEFINITION_KINDS, READY_MADE, type DefinitionKind, type LibraryDefinition } from "#core/library";
import { textInWords } from "#core/wording";
import { isRefused } from "#server/problem";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { PageHead, Panel, Problems } from "~/design/panel";
import { useNotice } from "~/design/toast";
import { RuleEditor } from "~/strategies/rule-editor";
import type { Route } from "./+types/definitions";

export const meta: Route.MetaFunction = () => [{ title: "Definitions · Canyon" }];

export async function loader({ context }: Route.LoaderArgs) {
  return { own: await context.services.definitions.own() };
}

interface Answer {
  saved: string | null;
  removed: LibraryDefinition | null;
  taken: { added: number; changed: number } | null;
  problems: { path: string; message: string }[];
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { definitions } = context.services;
  const answer: Answer = { saved: null, removed: null, taken: null, problems: [] };
  try {
    switch (form.get("intent")) {
      case "save": {
        const definition = JSON.parse(String(form.get("definition"))) as LibraryDefinition;
        await definitions.save(definition, form.get("id") === "" ? null : Number(form.get("id")));
        return { ...answer, saved: definition.name };
      }
      case "remove":
        return { ...answer, removed: await definitions.remove(Number(form.get("id"))) };
      case "file":
        return { ...answer, taken: await definitions.takeFile(JSON.parse(String(form.get("file")))) };
    }
    return answer;
  } catch (error) {
    if (isRefused(error)) return data({ ...answer, problems: error.problems }, { status: error.status });
    if (error instanceof SyntaxError)
      return data({ ...answer, problems: [{ path: "file", message: "this file is not JSON" }] }, { status: 400 });
    throw error;
  }
}

const KIND_WORDS: Record<DefinitionKind, string> = {
  trigger: "Triggers: when to act",
  filter: "Filters: whether to act",
  regime: "Regimes: what kind of market it is",
  pattern: "Patterns: what the last bars look like",
};
const NEW: LibraryDefinition = { name: "", kind: "filter", title: "", about: "", rule: "" };

/** Named formulas to build strategies from: those that ship with Canyon, and the user's own. */
export default function DefinitionsPage({ loaderData: { own } }: Route.ComponentProps) {
  const [params, setParams] = useSearchParams();
  const find = params.get("find") ?? "";
  const fetcher = useFetcher<Answer>();
  const notice = useNotice();
  const [editing, setEditing] = useState<{ id: string; definition: LibraryDefinition } | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const answer = fetcher.data;
  const save = (definition: LibraryDefinition, id: string) =>
    void fetcher.submit({ intent: "save", id, definition: JSON.stringify(definition) }, { method: "post" });
  useEffect(() => {
    if (answer?.saved) {
      setEditing(null);
      notice({ text: `${answer.saved} is saved.` });
    }
    if (answer?.removed) {
      const { removed } = answer;
      notice({ text: `${removed.name} was taken out.`, action: { label: "Undo", run: () => save(removed, "") } });
    }
    if (answer?.taken) notice({ text: `${answer.taken.added} added, ${answer.taken.changed} changed.` });
    // an answer counts once
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [answer]);
  const all = useMemo(
    () => [...own.map((one) => ({ ...one, own: true })), ...READY_MADE.map((one) => ({ ...one, own: false, id: 0 }))],
    [own],
  );
  const shown = all.filter((one) => `${one.name} ${one.title} ${one.about} ${one.rule}`.toLowerCase().includes(find.toLowerCase()));
  return (
    <>
      <PageHead
        title="Definitions"
        about="Named formulas in the notation, to take over into a strategy and change there."
        actions={
          <>
            <Button look="quiet" onClick={() => input.current?.click()}>
              Take over a file…
            </Button>
            <input
              ref={input}
              type="file"
              accept="application/json,.json"
              aria-label="File of definitions"
              className="sr-only"
              tabIndex={-1}
              onChange={async (event) => {
                const [file] = event.target.files ?? [];
                event.target.value = "";
                if (file) void fetcher.submit({ intent: "file", file: await file.text() }, { method: "post" });
              }}
            />
            {own.length > 0 && (
              <Button look="quiet" asChild>
                <a href="/definitions/file.json" download>
                  Own ones as a file
                </a>
              </Button>
            )}
            <Button look="primary" onClick={() => setEditing({ id: "", definition: NEW })}>
              New definition
            </Button>
          </>
        }
      />
      {editing !== null ? (
        <DefinitionForm
          key={editing.id}
          start={editing.definition}
          problems={answer?.problems ?? []}
          onSave={(definition) => save(definition, editing.id)}
          onClose={() => setEditing(null)}
        />
      ) : (
        <div className="mb-3 empty:hidden">
          {answer && answer.problems.length > 0 && <Problems problems={answer.problems} title="Nothing was taken over" />}
        </div>
      )}
      <input
        aria-label="Find a definition"
        placeholder="find by name, words or formula"
        value={find}
        onChange={(event) =>
          setParams(event.target.value === "" ? {} : { find: event.target.value }, { replace: true, preventScrollReset: true })
        }
        className="mb-3 w-72 rounded-[4px] border border-edge bg-sheet px-2 py-1"
      />
      <div className="flex flex-col gap-3">
        {DEFINITION_KINDS.map((kind) => {
          const rows = shown.filter((one) => one.kind === kind);
          if (rows.length === 0) return null;
          return (
            <Panel key={kind} title={KIND_WORDS[kind]} note={`${rows.length}`}>
              <ul>
                {rows.map((one) => (
                  <li
                    key={`${one.own} ${one.name}`}
                    className="grid grid-cols-[210px_1fr_auto] gap-x-4 border-t border-edge/60 py-1.5 first:border-t-0"
                  >
                    <div>
                      <p className="font-semibold">{one.title}</p>
                      <p className="figure-text text-xs text-ink-soft">
                        {one.name}
                        {one.own && ", your own"}
                      </p>
                    </div>
                    <div className="min-w-0">
                      <p className="figure-text text-sm break-words" title={textInWords(one.rule)}>
                        {one.rule}
                      </p>
                      <p className="text-sm text-ink-soft">{one.about}</p>
                    </div>
                    <div className="flex items-start gap-1.5">
                      <Button
                        look="quiet"
                        small
                        onClick={() =>
                          setEditing({
                            id: one.own ? String(one.id) : "",
                            definition: {
                              name: one.own ? one.name : `${one.name}2`,
                              kind: one.kind,
                              title: one.title,
                              about: one.about,
                              rule: one.rule,
                            },
                          })
                        }
                      >
                        {one.own ? "Change" : "Copy"}
                      </Button>
                      {one.own && (
                        <Button
                          look="quiet"
                          small
                          onClick={() => void fetcher.submit({ intent: "remove", id: String(one.id) }, { method: "post" })}
                        >
                          Take out
                        </Button>
                      )}
                    </div>
                  </li>
                ))}
              </ul>
            </Panel>
          );
        })}
        {shown.length === 0 && <p className="py-8 text-center text-ink-soft">No definition has these words in it.</p>}
      </div>
    </>
  );
}

interface FormProps {
  start: LibraryDefinition;
  problems: readonly { path: string; message: string }[];
  onSave: (definition: LibraryDefinition) => void;
  onClose: () => void;
}

function DefinitionForm({ start, problems, onSave, onClose }: FormProps) {
  const [held, setHeld] = useState(start);
  const set = (part: Partial<LibraryDefinition>) => setHeld((before) => ({ ...before, ...part }));
  const error = (path: string) => problems.find((problem) => problem.path === path)?.message;
  return (
    <Panel className="mb-3" title={start.name === "" ? "New definition" : start.title}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          onSave(held);
        }}
        className="grid grid-cols-[1fr_1fr_180px] gap-3"
      >
        <Field label="Title" value={held.title} onChange={(event) => set({ title: event.target.value })} error={error("title")} />
        <Field
          label="Name in rules"
          value={held.name}
          onChange={(event) => set({ name: event.target.value })}
          error={error("name")}
          figure={false}
        />
        <Select
          label="Kind"
          value={held.kind}
          choices={DEFINITION_KINDS.map((kind) => ({ value: kind, label: kind }))}
          onChange={(kind) => set({ kind: kind as DefinitionKind })}
        />
        <div className="col-span-3">
          <p className="text-sm text-ink-soft">Formula</p>
          <RuleEditor
            label="Formula of the definition"
            value={held.rule}
            onChange={(rule) => set({ rule })}
            problems={held.rule === "" ? [] : checkRule(held.rule, EMPTY_SCOPE).problems}
            names={[]}
            hint="close > sma(close, 200)"
          />
        </div>
        <Field className="col-span-3" label="What it is for" value={held.about} onChange={(event) => set({ about: event.target.value })} />
        <div className="col-span-3 flex justify-end gap-2">
          <Button look="quiet" onClick={onClose}>
            Leave it
          </Button>
          <Button look="primary" type="submit">
            Save
          </Button>
        </div>
      </form>
    </Panel>
  );
}
