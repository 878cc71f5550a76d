import { useState } from "react";
import { data, Link, redirect, useFetcher } from "react-router";
import { type Cascade } from "#core/cascades";
import { PROBES } from "#core/probes";
import { isRefused } from "#server/problem";
import { Button } from "~/design/button";
import { momentText } from "~/design/format";
import { PageHead, Panel, Problems } from "~/design/panel";
import { CascadeEditor } from "~/cascades/editor";
import { askedWords } from "~/probes/form-state";
import type { Route } from "./+types/cascade";

export const meta: Route.MetaFunction = ({ data: page }) => [{ title: `${page?.cascade?.document.name ?? "New cascade"} · Canyon` }];

const EMPTY: Cascade = { format: "canyon.cascade/1", name: "", goOn: false, stages: [] };

export async function loader({ context, params }: Route.LoaderArgs) {
  const { cascades, markets, strategies } = context.services;
  const made = params.id === "new" ? null : await cascades.get(Number(params.id));
  if (params.id !== "new" && made === null) throw new Response("There is no such cascade.", { status: 404 });
  const [runs, list, newest] = await Promise.all([made === null ? [] : cascades.runsOf(made.id), markets.list(), strategies.newest()]);
  return {
    cascade: made,
    runs: runs.map(({ id, createdAt, done, courses }) => ({
      id,
      createdAt,
      done,
      versions: courses.length,
      through: courses.filter(({ end }) => end === "through").length,
    })),
    symbols: list.map((market) => market.symbol),
    versions: newest.map((version) => ({ id: version.id, name: version.strategyName, number: version.number, status: version.status })),
  };
}

export async function action({ context, params, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { cascades } = context.services;
  try {
    if (form.get("intent") === "run") {
      const run = await cascades.run(Number(params.id), JSON.parse(String(form.get("versions"))) as number[]);
      return redirect(`/cascades/runs/${run}`);
    }
    let document: unknown;
    try {
      document = JSON.parse(String(form.get("document")));
    } catch {
      return data({ problems: [{ path: "", message: "the file is no JSON" }] }, { status: 400 });
    }
    if (params.id === "new") return redirect(`/cascades/${await cascades.create(document)}`);
    await cascades.change(Number(params.id), document);
    return { problems: [] };
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems }, { status: error.status });
    throw error;
  }
}

export default function CascadePage({ loaderData: { cascade, runs, symbols, versions } }: Route.ComponentProps) {
  const fetcher = useFetcher<{ problems: { path: string; message: string }[] }>();
  const runner = useFetcher<{ problems: { path: string; message: string }[] }>();
  const [document, setDocument] = useState<Cascade>(cascade?.document ?? EMPTY);
  const [editing, setEditing] = useState(cascade === null);
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const toggle = (id: number) => setChosen((before) => new Set(before.has(id) ? [...before].filter((one) => one !== id) : [...before, id]));
  const save = () => void fetcher.submit({ intent: "save", document: JSON.stringify(document) }, { method: "post" });
  return (
    <>
      <PageHead
        title={cascade?.document.name ?? "A new cascade"}
        about={cascade?.document.about}
        actions={
          cascade !== null && (
            <>
              <Button look="quiet" asChild>
                <a href={`/cascades/${cascade.id}/file.json`} download>
                  Save as a file
                </a>
              </Button>
              <Button look="quiet" onClick={() => setEditing(!editing)}>
                {editing ? "Close the form" : "Change it…"}
              </Button>
            </>
          )
        }
      />
      <div className="grid grid-cols-[minmax(0,1.3fr)_minmax(0,1fr)] items-start gap-3">
        <Panel title="What it asks, in this order" note={document.goOn ? "goes on after a failure" : "stops at the first failure"}>
          {editing ? (
            <>
              <CascadeEditor cascade={document} symbols={symbols} onChange={setDocument} />
              <div className="mt-3 flex items-center gap-2">
                <Button look={cascade === null ? "primary" : "plain"} onClick={save} disabled={fetcher.state !== "idle"}>
                  Write it down
                </Button>
                <label className="quiet-link cursor-pointer">
                  Read it from a file
                  <input
                    type="file"
                    accept=".json"
                    className="sr-only"
                    onChange={(event) => {
                      const file = event.target.files?.[0];
                      if (file) void file.text().then((text) => fetcher.submit({ intent: "save", document: text }, { method: "post" }));
                    }}
                  />
                </label>
                {cascade !== null && (
                  <span className="text-sm text-ink-soft">Runs that have begun keep the stages that they began with.</span>
                )}
              </div>
              <div className="mt-2 empty:hidden">
                <Problems problems={fetcher.data?.problems ?? []} title="The cascade can't be written down" />
              </div>
            </>
          ) : (
            <ol aria-label="Stages" className="flex flex-col">
              {document.stages.map((stage, k) => {
                const kind = PROBES.get(stage.probe)!;
                return (
                  <li key={k} className="border-t border-edge/60 py-1.5 first:border-0">
                    <span className="figure-text text-ink-soft">{k + 1}</span> <b>{kind.name}</b>{" "}
                    <span className="text-ink-soft">{kind.question}</span>
                    <span className="block pl-4 text-sm">{askedWords(kind, stage.input.criteria)}</span>
                  </li>
                );
              })}
            </ol>
          )}
        </Panel>
        {cascade !== null && (
          <div className="flex flex-col gap-3">
            <Panel title="Send versions through" note="the newest of each strategy">
              {versions.length === 0 ? (
                <p className="text-ink-soft">The library is empty: write a rule first.</p>
              ) : (
                <>
                  <ul className="max-h-64 overflow-auto">
                    {versions.map((version) => (
                      <li key={version.id}>
                        <label className="flex items-center gap-2 py-0.5">
                          <input type="checkbox" checked={chosen.has(version.id)} onChange={() => toggle(version.id)} />
                          {version.name} v{version.number} <span className="text-sm text-ink-soft">{version.status}</span>
                        </label>
                      </li>
                    ))}
                  </ul>
                  <div className="mt-2 flex gap-2">
                    <Button
                      look="primary"
                      disabled={runner.state !== "idle"}
                      onClick={() => void runner.submit({ intent: "run", versions: JSON.stringify([...chosen]) }, { method: "post" })}
                    >
                      Send {chosen.size > 0 ? chosen.size : "them"} through
                    </Button>
                    <Button look="quiet" onClick={() => setChosen(new Set(versions.map((version) => version.id)))}>
                      All
                    </Button>
                  </div>
                  <Problems problems={runner.data?.problems ?? []} />
                </>
              )}
            </Panel>
            <Panel title="Runs so far">
              {runs.length === 0 ? (
                <p className="text-ink-soft">None yet.</p>
              ) : (
                <ul>
                  {runs.map((run) => (
                    <li key={run.id} className="border-t border-edge/60 py-1 first:border-0">
                      <Link to={`/cascades/runs/${run.id}`}>
                        <span className="figure-text text-sm">{momentText(run.createdAt)}</span>: {run.through} of {run.versions} came
                        through
                      </Link>
                      {!run.done && <span className="text-ochre-ink"> · at work</span>}
                    </li>
                  ))}
                </ul>
              )}
            </Panel>
          </div>
        )}
      </div>
    </>
  );
}
