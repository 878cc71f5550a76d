import { useEffect, useRef } from "react";
import { data, Link, useFetcher, useNavigate } from "react-router";
import { differences } from "#core/wording";
import { isRefused } from "#server/problem";
import { strategyPage } from "#server/strategy-page";
import { useAddress } from "~/design/use-address";
import { Button } from "~/design/button";
import { decimal, momentText } from "~/design/format";
import { Panel, Problems } from "~/design/panel";
import { useNotice } from "~/design/toast";
import { DifferenceList } from "~/strategies/difference-list";
import { StrategyHead } from "~/strategies/head";
import type { Route } from "./+types/strategy-versions";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: `Versions of ${page?.version.strategyName ?? "a strategy"} · Canyon` },
];

export async function loader({ context, params }: Route.LoaderArgs) {
  const page = await strategyPage(context.services, Number(params.id), null);
  if (page === null) throw new Response("There is no such strategy.", { status: 404 });
  return page;
}

interface Answer {
  done: string | null;
  goTo: string | null;
  problems: { path: string; message: string }[];
}

export async function action({ context, params, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { strategies, audits } = context.services;
  const id = Number(params.id);
  const answer: Answer = { done: null, goTo: null, problems: [] };
  try {
    switch (form.get("intent")) {
      case "note":
        await strategies.setNote(Number(form.get("version")), String(form.get("note")));
        return answer;
      case "restore": {
        const version = await strategies.makeNewest(id, Number(form.get("number")));
        return { ...answer, done: `Version ${form.get("number")} is the newest again, as version ${version.number}.` };
      }
      case "branch": {
        const version = await strategies.branch(Number(form.get("version")), String(form.get("name")));
        return { ...answer, goTo: `/strategies/${version.strategyId}` };
      }
      case "audit": {
        const version = await strategies.version(Number(form.get("version")));
        if (version !== null) await audits.run(version);
        return answer;
      }
    }
    return answer;
  } catch (error) {
    if (isRefused(error)) return data({ ...answer, problems: error.problems }, { status: error.status });
    throw error;
  }
}

/** Every saved change with its note, what it changed, and the way back to it; two of them beside each other. */
export default function StrategyVersionsPage({ loaderData: { version, versions, layers, counts } }: Route.ComponentProps) {
  const { params, set } = useAddress();
  const fetcher = useFetcher<Answer>();
  // a note that is still being written must not hold up what follows it
  const notes = useFetcher();
  const notice = useNotice();
  const navigate = useNavigate();
  const answer = fetcher.data;
  const answered = useRef<Answer | null>(null);
  useEffect(() => {
    // going on while the page's data is still being loaded again would lose the new page
    if (!answer || fetcher.state !== "idle" || answered.current === answer) return;
    answered.current = answer;
    if (answer.done) notice({ text: answer.done });
    if (answer.goTo) void navigate(answer.goTo);
  }, [answer, fetcher.state, notice, navigate]);
  const number = (name: string, otherwise: number) => {
    const given = Number(params.get(name) ?? otherwise);
    return versions.some((v) => v.number === given) ? given : otherwise;
  };
  const to = number("to", version.number);
  const from = number("from", Math.max(1, version.number - 1));
  const strategyOf = (n: number) => versions.find((v) => v.number === n)!.strategy;
  const send = (fields: Record<string, string>) => void fetcher.submit(fields, { method: "post" });
  const pick = (name: string, value: number) => (
    <select
      aria-label={name === "from" ? "From version" : "To version"}
      value={value}
      onChange={(event) => set(name, event.target.value)}
      className="rounded-[4px] border border-edge bg-sheet px-1.5 py-0.5"
    >
      {versions.map((v) => (
        <option key={v.id} value={v.number}>
          version {v.number}
        </option>
      ))}
    </select>
  );
  return (
    <>
      <StrategyHead
        id={version.strategyId}
        name={version.strategyName}
        about={`${versions.length} ${versions.length === 1 ? "version" : "versions"}, newest first`}
        layers={layers}
        counts={counts}
      />
      <div className="mb-3 empty:hidden">{answer && answer.problems.length > 0 && <Problems problems={answer.problems} />}</div>
      {versions.length > 1 && (
        <Panel
          className="mb-3"
          title={
            <span className="text-base">
              From {pick("from", from)} to {pick("to", to)}
            </span>
          }
        >
          <DifferenceList differences={differences(strategyOf(from), strategyOf(to))} />
        </Panel>
      )}
      <ol className="flex flex-col gap-2">
        {[...versions].reverse().map((v) => {
          const earlier = versions.find((one) => one.number === v.number - 1);
          return (
            <li key={v.id}>
              <Panel
                title={
                  <Link to={`/strategies/${v.strategyId}?v=${v.number}`} className="no-underline hover:underline">
                    Version {v.number}
                  </Link>
                }
                note={momentText(v.createdAt)}
                aside={<span className="figure-text text-xs">{v.hash.slice(0, 12)}</span>}
              >
                <div className="grid grid-cols-[1fr_minmax(230px,auto)] gap-4">
                  <div>
                    <input
                      aria-label={`Note of version ${v.number}`}
                      defaultValue={v.note}
                      key={v.note}
                      placeholder="a note: why this change"
                      onBlur={(event) => {
                        if (event.target.value !== v.note)
                          void notes.submit({ intent: "note", version: String(v.id), note: event.target.value }, { method: "post" });
                      }}
                      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
                      className="mb-1 w-full border-b border-dotted border-edge bg-transparent placeholder:text-ink-faint focus:border-ink"
                    />
                    {earlier === undefined ? (
                      <p className="text-ink-soft">The first version.</p>
                    ) : (
                      <DifferenceList differences={differences(earlier.strategy, v.strategy)} />
                    )}
                  </div>
                  <div className="flex flex-col items-end gap-1 text-sm">
                    <div className="flex flex-wrap justify-end gap-1.5">
                      {v.number < version.number && (
                        <Button look="quiet" small onClick={() => send({ intent: "restore", number: String(v.number) })}>
                          Make it the newest
                        </Button>
                      )}
                      <Button
                        look="quiet"
                        small
                        onClick={() => send({ intent: "branch", version: String(v.id), name: `${v.strategyName}, branch` })}
                      >
                        Branch
                      </Button>
                      <Button look="quiet" small asChild>
                        <Link to={`/strategies/${v.strategyId}/statement?v=${v.number}`}>In words</Link>
                      </Button>
                      <Button look="quiet" small asChild>
                        <a href={`/strategies/${v.strategyId}/file.json?v=${v.number}`} download>
                          File
                        </a>
                      </Button>
                    </div>
                    <Audit
                      audit={v.audit}
                      running={
                        fetcher.state !== "idle" &&
                        fetcher.formData?.get("intent") === "audit" &&
                        fetcher.formData.get("version") === String(v.id)
                      }
                      able={v.settings !== null}
                      onRun={() => send({ intent: "audit", version: String(v.id) })}
                    />
                  </div>
                </div>
              </Panel>
            </li>
          );
        })}
      </ol>
    </>
  );
}

interface AuditProps {
  audit: Route.ComponentProps["loaderData"]["version"]["audit"];
  running: boolean;
  able: boolean;
  onRun: () => void;
}

/** What the audit for looking ahead found: signals on data that ends earlier must be the same. */
function Audit({ audit, running, able, onRun }: AuditProps) {
  if (running) return <p className="text-ink-soft">Looks ahead? Being computed …</p>;
  const again = (
    <button type="button" className="quiet-link" onClick={onRun} disabled={!able} title={able ? undefined : "look at it on a market first"}>
      {audit === null ? "check now" : "again"}
    </button>
  );
  if (audit === null)
    return (
      <p className="text-ink-soft">
        Looks ahead? <span>untested</span> {again}
      </p>
    );
  return (
    <p
      className={audit.difference === null ? "text-moss-ink" : "font-semibold text-clay"}
      data-audit={audit.difference === null ? "passed" : "failed"}
    >
      {audit.difference === null
        ? `Does not look ahead: ${audit.cuts} cuts of ${audit.markets.length > 3 ? `${audit.markets.length} markets` : audit.markets.join(", ")}, ${decimal(audit.closes, 0)} closes alike`
        : `Looks ahead: with data until ${audit.difference.cut.slice(0, 10)}, ${audit.difference.what} of ${audit.difference.at.slice(0, 10)} differ`}{" "}
      {again}
    </p>
  );
}
