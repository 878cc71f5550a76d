import { useState } from "react";
import { Link, useFetcher } from "react-router";
import { PROBES } from "#core/probes";
import { layerOf } from "#server/layers";
import type { ProbeView } from "#server/probe-views";
import { Button } from "~/design/button";
import { decimal, duration, momentText } from "~/design/format";
import { Panel, Problems } from "~/design/panel";
import { CriteriaTable } from "./criteria-table";
import { ProbeDrawing } from "./drawing";
import { askedWords, formOf, inputOf, inputWords, type FormState } from "./form-state";
import { stateInk, stateWords } from "./layer-looks";
import { PartsTable } from "./parts-table";
import { ProbeForm, type SearchChoice } from "./probe-form";
import { SignedAct } from "./signed-act";

interface Props {
  probe: ProbeView;
  symbols: readonly string[];
  searches: readonly SearchChoice[];
  onCell?: (windows: number, outShare: number) => void;
}

/** One probe: its question, its criteria, its result with drawing and verdict, and what the verdict does not say. */
export function ProbeSheet({ probe, symbols, searches, onCell }: Props) {
  const fetcher = useFetcher<{ problems: { path: string; message: string }[] }>();
  const kind = PROBES.get(probe.kind)!;
  const [editing, setEditing] = useState<FormState | null>(null);
  const [signing, setSigning] = useState<"overrule" | "open" | null>(null);
  const { outcome, job } = probe;
  const layer = layerOf(probe);
  // every result that it ever had was a look
  const spent = probe.earlier.length + 1;
  const going = job !== null && ["queued", "running", "paused"].includes(job.state);
  const busy = fetcher.state !== "idle";
  const currency = probe.input.settings.currency ?? "money";
  const form = (intent: string, extra: Record<string, string> = {}) =>
    void fetcher.submit({ intent, probe: String(probe.id), ...extra }, { method: "post" });
  const run = () => (probe.kind === "holdOut" ? setSigning("open") : form("run"));
  const next = outcome?.drawings.find((drawing) => drawing.kind === "walk")?.next ?? null;
  return (
    <Panel
      title={
        <>
          {probe.name}{" "}
          <span data-verdict={probe.state} className={`font-text text-base font-semibold ${stateInk(layer)}`}>
            {stateWords(layer)}
          </span>
        </>
      }
      note={probe.question}
      aside={
        outcome === null
          ? `criteria written down ${momentText(probe.criteriaSetAt)}`
          : `ran ${momentText(probe.ranAt!)}, criteria written down ${momentText(probe.criteriaSetAt)} · ${spent} ${spent === 1 ? "trial" : "trials"} spent`
      }
    >
      {probe.why && <p className="mb-2 border-l-4 border-slate px-3 py-1">Out of date: {probe.why}.</p>}
      {probe.overruled && (
        <p className="mb-2 border-l-4 border-ink px-3 py-1" data-overruled>
          Failed, and overruled by {probe.overruled.name} on {momentText(probe.overruled.at)}: “{probe.overruled.reason}” It stays a failure
          in every list.
        </p>
      )}
      {job?.state === "failed" && (
        <Problems problems={[{ path: "", message: job.error ?? "the run failed" }]} title="The probe could not be run" />
      )}
      {outcome !== null && <p className="mb-2 text-lg first-letter:uppercase">{outcome.said}.</p>}
      {outcome === null && (
        <p className="mb-2">
          <span className="text-ink-soft">asked:</span> {askedWords(kind, probe.input.probe.criteria)}
        </p>
      )}
      {kind.fields.length > 0 && <p className="mb-2 text-sm text-ink-soft">{inputWords(kind, probe.input.probe)}</p>}
      {outcome !== null && <CriteriaTable criteria={outcome.criteria} />}
      {going ? (
        <div className="mb-3 flex items-center gap-3" aria-live="polite">
          <span
            role="progressbar"
            aria-label="The probe’s progress"
            aria-valuenow={job.done}
            aria-valuemin={0}
            aria-valuemax={job.total}
            className="block h-2 flex-1 bg-edge"
          >
            <span className="block h-2 bg-ochre" style={{ width: `${(100 * job.done) / Math.max(1, job.total)}%` }} />
          </span>
          <span className="figure-text text-sm" data-job={job.state}>
            {job.state}, {decimal(job.done, 0)} of {decimal(job.total, 0)} {kind.unitName}
            {job.left !== null && `, ${duration(job.left)} left`}
          </span>
          <Button small onClick={() => form(job.state === "paused" ? "resume" : "pause")}>
            {job.state === "paused" ? "Resume" : "Pause"}
          </Button>
          <Button small onClick={() => form("cancel")}>
            Cancel
          </Button>
        </div>
      ) : editing !== null ? (
        <div className="mb-3 rounded-[4px] border border-edge p-3">
          <ProbeForm kind={kind} state={editing} onChange={setEditing} symbols={symbols} searches={searches} />
          <div className="mt-3 flex items-center gap-2">
            <Button
              small
              onClick={() => {
                form("change", { input: JSON.stringify(inputOf(kind, editing)) });
                setEditing(null);
              }}
            >
              Write down
            </Button>
            <Button small look="quiet" onClick={() => setEditing(null)}>
              Leave it
            </Button>
            {outcome !== null && <span className="text-sm text-ink-soft">The result stays, and is out of date from then on.</span>}
          </div>
        </div>
      ) : (
        <div className="mb-3 flex flex-wrap gap-2">
          <Button look={outcome === null ? "primary" : "plain"} small={outcome !== null} disabled={busy} onClick={run}>
            {probe.kind === "holdOut" ? "Open the seal and run…" : outcome === null ? "Run the probe" : "Run again"}
          </Button>
          <Button look="quiet" small={outcome !== null} onClick={() => setEditing(formOf(kind, probe.input.probe))}>
            Change criteria…
          </Button>
          {probe.state === "failed" && probe.overruled === null && (
            <Button look="quiet" small onClick={() => setSigning("overrule")}>
              Overrule…
            </Button>
          )}
          {next !== null && probe.state !== "untested" && (
            <Button look="quiet" small asChild>
              <Link
                to={`/strategies/${probe.strategyId}?${new URLSearchParams({
                  v: String(probe.versionNumber),
                  set: Object.entries(next)
                    .map(([name, value]) => `${name}:${Number(value)}`)
                    .join(","),
                  origin: `values of the next fit of walk-forward ${probe.id}`,
                })}`}
              >
                Take the next fit’s values over
              </Link>
            </Button>
          )}
          {probe.kind !== "holdOut" && (
            <Button look="quiet" small={outcome !== null} asChild>
              <a href={`/probes/${probe.id}/plan.json`} download>
                Save as a plan
              </a>
            </Button>
          )}
          {outcome === null && (
            <Button look="quiet" onClick={() => form("remove")}>
              Remove
            </Button>
          )}
        </div>
      )}
      <Problems problems={fetcher.data?.problems ?? []} />
      {outcome !== null && (
        <>
          {outcome.drawings.map((drawing, k) => (
            <ProbeDrawing
              key={k}
              drawing={drawing}
              capital={probe.input.settings.capital}
              currency={currency}
              fileName={`probe-${probe.id}-${k}`}
              onCell={onCell}
            />
          ))}
          <div className="mt-3">
            <PartsTable parts={outcome.parts} currency={currency} />
          </div>
        </>
      )}
      <p className="mt-2 text-sm text-ink-soft">
        <span className="font-semibold">What this does not say.</span> {probe.caution}
      </p>
      {probe.earlier.length > 0 && (
        <details className="mt-2 text-sm">
          <summary>
            {probe.earlier.length} earlier {probe.earlier.length === 1 ? "result" : "results"} of this probe
          </summary>
          <ul aria-label="Earlier results" className="mt-1 list-disc pl-5">
            {probe.earlier.map((one) => (
              <li key={one.ranAt}>
                {momentText(one.ranAt)}: {one.verdict}; {one.said}. Asked: {askedWords(kind, one.asked)}.
              </li>
            ))}
          </ul>
        </details>
      )}
      <SignedAct
        open={signing === "overrule"}
        onOpenChange={(open) => setSigning(open ? "overrule" : null)}
        title={`Overrule “${probe.name}”`}
        about="It stays a failure, drawn with an ink corner; your reason and your name stand wherever the layer is drawn."
        fields={{ intent: "overrule", probe: String(probe.id) }}
        act="Overrule the failure"
      />
      <SignedAct
        open={signing === "open"}
        onOpenChange={(open) => setSigning(open ? "open" : null)}
        title="Open the seal"
        about="This can’t be undone. The stretch is marked as seen, on the version and on the data, and whatever is changed afterwards has seen it."
        fields={{ intent: "run", probe: String(probe.id) }}
        act="Open the seal and run"
      />
    </Panel>
  );
}
