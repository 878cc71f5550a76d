import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from "react";
import { Link, useFetcher, useSearchParams } from "react-router";
import { QUALITY_CHECKS } from "#core/quality";
import { isRefused } from "#server/problem";
import { Coverage } from "~/charts/coverage";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { dateText, decimal } from "~/design/format";
import { Panel, Problems } from "~/design/panel";
import { saveCsv } from "~/design/save";
import { useNotice } from "~/design/toast";
import { MarketHead } from "~/markets/head";
import type { Route } from "./+types/market-quality";

export const meta: Route.MetaFunction = ({ params }) => [{ title: `${params.symbol}, quality · Canyon` }];
export const handle = {
  keys: [
    { keys: "↑ ↓", what: "walk through the findings" },
    { keys: "A", what: "accept the finding" },
    { keys: "L", what: "leave its bars out" },
  ],
};

export async function loader({ context, params, request }: Route.LoaderArgs) {
  const { markets, quality, sources } = context.services;
  const market = await markets.bySymbol(params.symbol);
  if (market === null) throw new Response(`There is no market ${params.symbol}.`, { status: 404 });
  const wanted = Number(new URL(request.url).searchParams.get("source"));
  const source = market.sources.find((one) => one.id === wanted) ?? market.sources.find((one) => one.isDefault)!;
  const { findings, ...report } = await quality.report(source, market.spec);
  const rejected = (await sources.changes(source.id)).reduce((sum, change) => sum + change.rejected, 0);
  // the times of bars stay on the server; how many there are is enough to know
  return { market, source, report, rejected, findings: findings.map(({ times, ...finding }) => ({ ...finding, removable: times.length })) };
}

export async function action({ context, params, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { markets, quality, sources } = context.services;
  try {
    if (form.get("intent") === "undo") {
      await sources.undo(Number(form.get("decision")));
      return { problems: [], decided: null };
    }
    const market = await markets.need(params.symbol);
    const source = market.sources.find((one) => one.id === Number(form.get("source")));
    const finding = source && (await quality.report(source, market.spec)).findings.find((one) => one.key === form.get("finding"));
    if (!source || !finding)
      return { problems: [{ path: "", message: "this finding is not there any more; the report was made anew" }], decided: null };
    const how = form.get("intent") === "leaveOut" ? "leaveOut" : "accept";
    const id = await sources.decide(source.id, finding, how, String(form.get("reason") ?? ""));
    return {
      problems: [],
      decided: {
        id,
        text:
          how === "accept" ? "Accepted" : finding.times.length === 1 ? "Its bar is left out" : `${finding.times.length} bars are left out`,
      },
    };
  } catch (error) {
    if (isRefused(error)) return { problems: error.problems, decided: null };
    throw error;
  }
}

export default function QualityPage({ loaderData: { market, source, report, rejected, findings } }: Route.ComponentProps) {
  const [query, setQuery] = useSearchParams();
  const fetcher = useFetcher<typeof action>();
  const notice = useNotice();
  const kind = query.get("kind") ?? "all";
  const openOnly = query.get("open") === "yes";
  const shown = useMemo(
    () => findings.filter((finding) => (kind === "all" || finding.kind === kind) && (!openOnly || finding.decision === null)),
    [findings, kind, openOnly],
  );
  const chosen = shown.find((finding) => finding.key === query.get("finding")) ?? null;
  const [reason, setReason] = useState("");
  const set = (part: Record<string, string | null>) => {
    const next = new URLSearchParams(query);
    for (const [key, value] of Object.entries(part)) {
      if (value === null) next.delete(key);
      else next.set(key, value);
    }
    setQuery(next, { replace: true, preventScrollReset: true });
  };
  const list = useRef<HTMLUListElement>(null);
  const submit = (form: Record<string, string>) => void fetcher.submit(form, { method: "post" });
  const decide = (intent: "accept" | "leaveOut") => {
    if (chosen === null || chosen.decision !== null || (intent === "leaveOut" && chosen.removable === 0)) return;
    submit({ intent, finding: chosen.key, source: String(source.id), reason });
    setReason("");
  };
  const decided = fetcher.data?.decided;
  useEffect(() => {
    if (decided)
      notice({
        text: `${decided.text}.`,
        action: { label: "Undo", run: () => submit({ intent: "undo", decision: String(decided.id) }) },
      });
    // the fetcher is a new object at every render; the decision is what counts
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [decided?.id, notice]);
  const walk = (event: KeyboardEvent) => {
    const at = chosen === null ? -1 : shown.indexOf(chosen);
    const next = event.key === "ArrowDown" ? at + 1 : event.key === "ArrowUp" ? at - 1 : null;
    if (next !== null) {
      event.preventDefault();
      const finding = shown[Math.max(0, Math.min(shown.length - 1, next))];
      if (finding) {
        set({ finding: finding.key });
        list.current?.querySelector<HTMLElement>(`[data-key="${finding.key}"]`)?.focus();
      }
    }
    if (event.key === "a" || event.key === "A") decide("accept");
    if (event.key === "l" || event.key === "L") decide("leaveOut");
  };
  const selected = useMemo(() => (chosen === null ? null : { from: chosen.from, to: chosen.to }), [chosen]);
  const open = findings.filter((finding) => finding.decision === null).length;
  return (
    <>
      <MarketHead market={market} />
      <div className="mb-3 flex flex-wrap items-end gap-3">
        <Select
          label="Source"
          value={String(source.id)}
          choices={market.sources.map((one) => ({
            value: String(one.id),
            label: `${one.name}, ${one.timeframe}, ${decimal(one.count, 0)} bars`,
          }))}
          onChange={(id) => set({ source: id, finding: null })}
          className="w-72"
        />
        <p className="pb-1 text-ink-soft" data-open={open}>
          {decimal(report.present, 0)} of {decimal(report.expected, 0)} expected bars are there
          {report.expected > 0 && ` (${decimal((100 * report.present) / report.expected, 2)} %)`} · {findings.length}{" "}
          {findings.length === 1 ? "finding" : "findings"}, {open} open
          {rejected > 0 && (
            <>
              {" · "}
              <Link to={`/markets/${market.symbol}/sources`}>
                {decimal(rejected, 0)} broken or repeated {rejected === 1 ? "line" : "lines"} rejected on the way in
              </Link>
            </>
          )}
        </p>
      </div>
      <Problems problems={fetcher.data?.problems ?? []} title="That could not be done" />
      <Panel title="Coverage by day" className="mb-3">
        <Coverage dates={report.coverage.dates} shares={report.coverage.shares} selected={selected} />
      </Panel>
      <div className="grid grid-cols-[1fr_320px] gap-3">
        <Panel
          title="Findings"
          note="arrow keys walk through them"
          aside={
            <button
              type="button"
              className="quiet-link"
              onClick={() =>
                saveCsv(
                  `${market.symbol}-${source.name}-findings`,
                  ["kind", "from", "to", "bars", "finding", "decision", "reason"],
                  findings.map((one) => [
                    one.kind,
                    new Date(one.from).toISOString(),
                    new Date(one.to).toISOString(),
                    one.bars,
                    one.text,
                    one.decision?.action ?? "",
                    one.decision?.reason ?? "",
                  ]),
                )
              }
            >
              save as CSV
            </button>
          }
          flush
        >
          <div className="flex flex-wrap items-center gap-1.5 px-3.5 pb-2">
            <Button
              small
              look={kind === "all" ? "primary" : "quiet"}
              aria-pressed={kind === "all"}
              onClick={() => set({ kind: null, finding: null })}
            >
              all {findings.length}
            </Button>
            {QUALITY_CHECKS.map((check) => {
              const count = findings.filter((finding) => finding.kind === check.kind).length;
              return (
                <Button
                  key={check.kind}
                  small
                  look={kind === check.kind ? "primary" : "quiet"}
                  aria-pressed={kind === check.kind}
                  title={check.question}
                  disabled={count === 0}
                  onClick={() => set({ kind: check.kind, finding: null })}
                >
                  {check.title} {count}
                </Button>
              );
            })}
            <label className="ml-2 flex items-center gap-1.5 text-sm">
              <input type="checkbox" checked={openOnly} onChange={(event) => set({ open: event.target.checked ? "yes" : null })} />
              open ones only
            </label>
          </div>
          {shown.length === 0 ? (
            <p className="px-3.5 pb-4 text-ink-soft">
              {findings.length === 0 ? "No check found anything in these bars." : "No finding of this kind is open."}
            </p>
          ) : (
            <ul ref={list} className="max-h-[420px] overflow-auto" onKeyDown={walk} aria-label="Findings">
              {shown.slice(0, 500).map((finding) => (
                <li key={finding.key} className="border-t border-edge/60">
                  <button
                    type="button"
                    data-key={finding.key}
                    aria-pressed={finding === chosen}
                    onClick={() => set({ finding: finding.key })}
                    className="grid w-full grid-cols-[9rem_1fr_auto] gap-3 px-3.5 py-1.5 text-left hover:bg-shade/60 aria-pressed:bg-shade"
                  >
                    <span className="text-ink-soft">{QUALITY_CHECKS.find((check) => check.kind === finding.kind)!.title}</span>
                    <span>{finding.text}</span>
                    <span className="text-sm text-ink-soft">
                      {finding.decision === null ? "" : finding.decision.action === "accept" ? "accepted" : "left out"}
                    </span>
                  </button>
                </li>
              ))}
              {shown.length > 500 && <li className="px-3.5 py-2 text-ink-soft">and {shown.length - 500} more; save them all as CSV</li>}
            </ul>
          )}
        </Panel>
        <div className="flex flex-col gap-3">
          <Panel title="The finding">
            {chosen === null ? (
              <p className="text-ink-soft">
                Choose a finding to decide on it. Nothing is changed by itself: bars are only left out when you say so.
              </p>
            ) : (
              <>
                <p>{chosen.text}.</p>
                <p className="mt-1 text-sm text-ink-soft">{QUALITY_CHECKS.find((check) => check.kind === chosen.kind)!.question}</p>
                <p className="mt-2">
                  <Link to={`/markets/${market.symbol}?source=${source.id}&at=${dateText(chosen.from)}`}>See it on the prices</Link>
                </p>
                {chosen.decision === null ? (
                  <>
                    <Field
                      label="Reason, kept with the decision"
                      value={reason}
                      onChange={(event) => setReason(event.target.value)}
                      className="mt-2"
                    />
                    <div className="mt-2 flex gap-2">
                      <Button onClick={() => decide("accept")}>Accept</Button>
                      <Button
                        onClick={() => decide("leaveOut")}
                        disabled={chosen.removable === 0}
                        title={chosen.removable === 0 ? "leaving bars out would not mend this" : undefined}
                      >
                        {chosen.removable === 0
                          ? "Leave bars out"
                          : `Leave ${chosen.removable === 1 ? "its bar" : `${decimal(chosen.removable, 0)} bars`} out`}
                      </Button>
                    </div>
                  </>
                ) : (
                  <p className="mt-2">
                    {chosen.decision.action === "accept" ? "Accepted" : "Left out"}
                    {chosen.decision.reason && `: ${chosen.decision.reason}`}.{" "}
                    <button
                      type="button"
                      className="quiet-link"
                      onClick={() => submit({ intent: "undo", decision: String(chosen.decision!.id) })}
                    >
                      take it back
                    </button>
                  </p>
                )}
              </>
            )}
          </Panel>
          {report.settled.length > 0 && (
            <Panel title="Corrections in force" note="bars left out, reversible">
              <ul>
                {report.settled.map((decision) => (
                  <li key={decision.id} className="border-t border-edge/60 py-1.5 first:border-t-0">
                    {decision.text}
                    {decision.reason && <span className="text-ink-soft"> ({decision.reason})</span>}{" "}
                    <button
                      type="button"
                      className="quiet-link text-sm"
                      onClick={() => submit({ intent: "undo", decision: String(decision.id) })}
                    >
                      count them again
                    </button>
                  </li>
                ))}
              </ul>
            </Panel>
          )}
        </div>
      </div>
    </>
  );
}
