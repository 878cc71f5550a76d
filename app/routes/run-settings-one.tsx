import { useEffect, useRef, useState } from "react";
import { data, Link, useFetcher, useNavigate } from "react-router";
import { READY_MADE_SETTINGS, readSavedSettings, settingDifferences, settingFacts } from "#core/settings";
import { isRefused } from "#server/problem";
import { Button } from "~/design/button";
import { Field } from "~/design/field";
import { momentText } from "~/design/format";
import { PageHead, Panel, Problems } from "~/design/panel";
import { useNotice } from "~/design/toast";
import { savedOfState, stateOfSaved } from "~/run-settings/form-state";
import { SavedForm } from "~/run-settings/saved-form";
import { DifferenceList } from "~/strategies/difference-list";
import type { Route } from "./+types/run-settings-one";

export const meta: Route.MetaFunction = ({ data: page }) => [{ title: `${page?.history?.name ?? "New run settings"} · Canyon` }];

export async function loader({ context, params, request }: Route.LoaderArgs) {
  const { runSettings, markets } = context.services;
  const list = await markets.list();
  if (params.id !== "new") {
    const history = await runSettings.get(Number(params.id));
    if (history === null) throw new Response("There are no such run settings.", { status: 404 });
    return { history, markets: list, start: { name: history.name, saved: history.versions[0].saved } };
  }
  const search = new URL(request.url).searchParams;
  const ready = READY_MADE_SETTINGS.find((one) => one.key === search.get("ready"));
  if (ready !== undefined) return { history: null, markets: list, start: { name: `${ready.name}, mine`, saved: ready.saved } };
  const fix = search.get("fix");
  if (fix !== null) {
    const read = readSavedSettings(jsonOf(fix));
    if (read.value === null) throw new Response("The settings in this address can't be read.", { status: 400 });
    return { history: null, markets: list, start: { name: "", saved: read.value } };
  }
  const copied = search.has("copy") ? await runSettings.get(Number(search.get("copy"))) : null;
  const start = copied === null ? { name: "", saved: {} } : { name: `${copied.name}, copy`, saved: copied.versions[0].saved };
  return { history: null, markets: list, start };
}

const jsonOf = (text: string): unknown => {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
};

interface Answer {
  /** id and version that were saved */
  saved: { id: number; number: number } | null;
  problems: { path: string; message: string }[];
}

export async function action({ context, params, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { runSettings } = context.services;
  const given = JSON.parse(String(form.get("saved"))) as unknown;
  const [name, note] = [String(form.get("name")), String(form.get("note"))];
  try {
    if (params.id === "new")
      return { saved: { id: await runSettings.create(name, given, note), number: 1 }, problems: [] } satisfies Answer;
    const id = Number(params.id);
    const number = await runSettings.save(id, Number(form.get("basedOn")), name, given, note);
    return { saved: { id, number }, problems: [] } satisfies Answer;
  } catch (error) {
    if (isRefused(error)) return data({ saved: null, problems: error.problems } satisfies Answer, { status: error.status });
    throw error;
  }
}

/** The form of run settings under a name, what they say in words, and their versions. */
export default function RunSettingsOnePage({ loaderData }: Route.ComponentProps) {
  const { history } = loaderData;
  return <Editing key={`${history?.id ?? "new"}.${history?.versions[0].number ?? 0}`} {...loaderData} />;
}

function Editing({ history, markets, start }: Route.ComponentProps["loaderData"]) {
  const [state, setState] = useState(() => stateOfSaved(start.name, start.saved));
  const [note, setNote] = useState("");
  const fetcher = useFetcher<Answer>();
  const navigate = useNavigate();
  const notice = useNotice();
  const { saved, problems } = savedOfState(state);
  const newest = history?.versions[0] ?? null;
  const touched = JSON.stringify(state) !== JSON.stringify(stateOfSaved(start.name, start.saved));
  const answered = useRef<Answer | null>(null);
  const { data: answer, state: phase } = fetcher;
  useEffect(() => {
    if (!answer?.saved || phase !== "idle" || answered.current === answer) return;
    answered.current = answer;
    notice({ text: `Saved as version ${answer.saved.number}.` });
    if (history === null) void navigate(`/run-settings/${answer.saved.id}`, { replace: true });
  }, [answer, phase, notice, navigate, history]);
  const save = () =>
    void fetcher.submit(
      { name: state.name, saved: JSON.stringify(saved), note: note.trim(), basedOn: String(newest?.number ?? 0) },
      { method: "post" },
    );
  const facts = saved === null ? [] : settingFacts(saved);
  return (
    <>
      <PageHead
        title={history?.name ?? "New run settings"}
        about={
          history === null
            ? "Fix what you want to be the same everywhere; what you leave is as at hand."
            : `version ${newest!.number}${touched ? ", changed" : ""}${history.deletedAt === null ? "" : ", taken out"}`
        }
        actions={
          <>
            <Button look="quiet" asChild>
              <Link to="/run-settings">All run settings</Link>
            </Button>
            <Button look="quiet" onClick={() => setState(stateOfSaved(start.name, start.saved))} disabled={!touched}>
              Undo all
            </Button>
            <Button look="primary" onClick={save} disabled={saved === null || phase !== "idle" || (history !== null && !touched)}>
              {history === null ? "Save" : `Save as version ${newest!.number + 1}`}
            </Button>
          </>
        }
      />
      {answer && answer.problems.length > 0 && (
        <div className="mb-3">
          <Problems problems={answer.problems} title="Not saved" />
        </div>
      )}
      <div className="grid grid-cols-[1fr_320px] items-start gap-3">
        <SavedForm state={state} onChange={setState} problems={touched || history !== null ? problems : []} markets={markets} />
        <div className="sticky top-3 flex flex-col gap-3">
          <Panel title="What they say">
            {facts.length === 0 ? (
              <p className="text-ink-soft">
                {problems.find((problem) => problem.path === "")?.message ?? "Something in the form is still missing or wrong."}
              </p>
            ) : (
              <dl className="grid grid-cols-[2fr_3fr] gap-x-3 gap-y-0.5">
                {facts.map(({ what, says }) => (
                  <div key={what} className="contents">
                    <dt className="text-ink-soft">{what}</dt>
                    <dd>{says}</dd>
                  </div>
                ))}
              </dl>
            )}
            <p className="mt-2 text-sm text-ink-soft">Everything else is as at hand, where they are used.</p>
            <Field
              className="mt-2"
              label="Note: why"
              placeholder="may stay empty"
              value={note}
              onChange={(event) => setNote(event.target.value)}
            />
          </Panel>
          {history !== null && (
            <Panel title="Versions" note={String(history.versions.length)}>
              <ol className="flex flex-col gap-2">
                {history.versions.map((version, i) => {
                  const before = history.versions[i + 1];
                  return (
                    <li key={version.number} className="border-t border-edge/60 pt-1.5 first:border-t-0 first:pt-0">
                      <div className="flex items-baseline gap-2">
                        <h3 className="font-semibold">Version {version.number}</h3>
                        <span className="text-xs text-ink-soft">{momentText(version.createdAt)}</span>
                        {i > 0 && (
                          <Button
                            look="quiet"
                            small
                            className="ml-auto"
                            onClick={() => setState(stateOfSaved(state.name, version.saved))}
                            title="Fills the form with it; save to make it the newest"
                          >
                            Take up
                          </Button>
                        )}
                      </div>
                      {version.note && <p className="text-sm">{version.note}</p>}
                      <div className="text-sm">
                        {before === undefined ? (
                          <p className="text-ink-soft">the first</p>
                        ) : (
                          <DifferenceList prose differences={settingDifferences(before.saved, version.saved)} />
                        )}
                      </div>
                    </li>
                  );
                })}
              </ol>
            </Panel>
          )}
        </div>
      </div>
    </>
  );
}
