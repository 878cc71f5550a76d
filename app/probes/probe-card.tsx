import { useMemo, useState } from "react";
import { useFetcher } from "react-router";
import type { OutOfSampleInput } from "#core/probes";
import type { ProbeView } from "#server/probes";
import { EquityChart, type Curve, type Stretch } from "~/charts/equity-chart";
import { Button } from "~/design/button";
import { decimal, metricText, momentText } from "~/design/format";
import { MetricName } from "~/design/metric-table";
import { Panel, Problems } from "~/design/panel";
import { CriteriaFields, criteriaOf, type CriteriaState } from "./criteria";

const COMPARED = ["netPercent", "cagr", "maxDrawdownPercent", "mar", "profitFactor", "trades", "averageTrade", "winRate", "sharpe"];
const STATE_LOOK: Record<ProbeView["state"], string> = {
  passed: "text-moss-ink",
  failed: "text-clay",
  untested: "text-ink-soft",
  "out of date": "text-slate",
};

/** What was asked, in one line. */
export function asked(input: OutOfSampleInput): string {
  const { profitFactor, trades, keptPercent } = input.criteria;
  return [
    profitFactor === undefined ? null : `profit factor ≥ ${profitFactor}`,
    trades === undefined ? null : `≥ ${trades} trades`,
    keptPercent === undefined ? null : `≥ ${keptPercent} % of the in-sample CAGR ÷ drawdown`,
  ]
    .filter(Boolean)
    .join(", ");
}

/** One probe: its question, its criteria, its result with drawing and verdict, and what the verdict does not say. */
export function ProbeCard({ probe }: { probe: ProbeView }) {
  const fetcher = useFetcher<{ problems: { path: string; message: string }[] }>();
  const input = probe.input.probe as OutOfSampleInput;
  const [editing, setEditing] = useState(false);
  const [state, setState] = useState<CriteriaState>({
    split: input.split,
    profitFactor: String(input.criteria.profitFactor ?? ""),
    trades: String(input.criteria.trades ?? ""),
    keptPercent: String(input.criteria.keptPercent ?? ""),
  });
  const { outcome } = probe;
  const busy = fetcher.state !== "idle";
  const problems = fetcher.data?.problems ?? [];
  const times = useMemo(() => Float64Array.from(outcome?.equity.date ?? [], (date) => date * 86_400_000), [outcome]);
  const capital = probe.input.settings.capital;
  const curves = useMemo<Curve[]>(
    () => (outcome === null ? [] : [{ name: `version ${probe.versionNumber}`, values: outcome.equity.value, role: "main" }]),
    [outcome, probe.versionNumber],
  );
  const stretches = useMemo<Stretch[]>(
    () =>
      outcome === null
        ? []
        : outcome.parts.map((part) => ({
            name: part.name,
            from: Date.parse(part.from),
            to: Date.parse(part.to),
            tint: part.name === "in-sample" ? ("in-sample" as const) : ("none" as const),
          })),
    [outcome],
  );
  const form = (intent: string, extra: Record<string, string> = {}) =>
    void fetcher.submit({ intent, probe: String(probe.id), ...extra }, { method: "post" });
  return (
    <Panel
      title={
        <>
          {probe.name} <span className={`font-text text-base font-semibold ${STATE_LOOK[probe.state]}`}>{probe.state}</span>
        </>
      }
      note={probe.question}
      aside={
        outcome === null
          ? `criteria written down ${momentText(probe.criteriaSetAt)}`
          : `ran ${momentText(probe.ranAt!)}, criteria written down ${momentText(probe.criteriaSetAt)}`
      }
    >
      <div className="grid grid-cols-[minmax(300px,4fr)_7fr] gap-5">
        <div>
          {probe.why && <p className="mb-2 border-l-4 border-slate px-3 py-1">Out of date: {probe.why}.</p>}
          {outcome === null || probe.why ? (
            <p className="mb-2">
              <span className="text-ink-soft">asked:</span> {asked(input)}; in-sample up to{" "}
              <span className="figure-text">{input.split}</span>
            </p>
          ) : null}
          {outcome !== null && (
            <table className="mb-3 w-full border-collapse">
              <thead className="text-sm text-ink-soft">
                <tr>
                  <th scope="col" className="text-left font-normal">
                    criterion
                  </th>
                  <th scope="col" className="text-right font-normal">
                    asked
                  </th>
                  <th scope="col" className="text-right font-normal">
                    came out
                  </th>
                  <th scope="col" className="text-right font-normal">
                    <span className="sr-only">held</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {outcome.criteria.map((criterion) => {
                  const digits = criterion.unit === "ratio" ? 2 : 0;
                  const unit = criterion.unit === "percent" ? " %" : "";
                  return (
                    <tr key={criterion.label} className="border-t border-edge/60">
                      <th scope="row" className="py-1 text-left font-normal">
                        {criterion.label}
                      </th>
                      <td className="figure-text pl-2 text-right whitespace-nowrap">
                        ≥ {decimal(criterion.asked, digits)}
                        {unit}
                      </td>
                      <td className="figure-text pl-2 text-right font-semibold whitespace-nowrap">
                        {criterion.note ?? `${decimal(criterion.got, digits)}${criterion.got === null ? "" : unit}`}
                      </td>
                      <td className={`pl-2 text-right ${criterion.held ? "text-moss-ink" : "text-clay"}`}>
                        {criterion.held ? "held" : "not held"}
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          )}
          {outcome !== null && (
            <table className="mb-3 w-full border-collapse">
              <thead className="text-sm text-ink-soft">
                <tr>
                  <th scope="col">
                    <span className="sr-only">figure</span>
                  </th>
                  {outcome.parts.map((part) => (
                    <th key={part.name} scope="col" className="text-right font-normal">
                      {part.name}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {COMPARED.map((key) => (
                  <tr key={key} className="border-t border-edge/60">
                    <th scope="row" className="py-[2px] text-left font-normal">
                      <MetricName metric={key} currency={probe.input.settings.currency ?? "money"} />
                    </th>
                    {outcome.parts.map((part) => (
                      <td key={part.name} className="figure-text text-right">
                        {metricText(key, part.metrics[key])}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          <Problems problems={problems} />
          {editing ? (
            <div className="mt-2">
              <CriteriaFields state={state} onChange={setState} />
              <div className="mt-2 flex gap-2">
                <Button
                  small
                  onClick={() => {
                    form("change", { input: JSON.stringify(criteriaOf(state)) });
                    setEditing(false);
                  }}
                >
                  Write down
                </Button>
                <Button small look="quiet" onClick={() => setEditing(false)}>
                  Cancel
                </Button>
                {outcome !== null && <span className="text-sm text-ink-soft">The result stays, and is out of date from then on.</span>}
              </div>
            </div>
          ) : (
            <div className="mt-2 flex flex-wrap gap-2">
              <Button look={outcome === null ? "primary" : "plain"} disabled={busy} onClick={() => form("run")}>
                {busy ? "Running …" : outcome === null ? "Run the probe" : "Run again"}
              </Button>
              <Button look="quiet" onClick={() => setEditing(true)}>
                Change criteria…
              </Button>
              {outcome === null && (
                <Button look="quiet" onClick={() => form("remove")}>
                  Remove
                </Button>
              )}
            </div>
          )}
        </div>
        <div className="min-w-0">
          {outcome === null ? (
            <p className="rounded-[4px] border border-dashed border-edge px-6 py-16 text-center text-ink-soft">
              Not run yet. Its criteria are written down; they can't be moved under a result.
            </p>
          ) : (
            <EquityChart
              times={times}
              curves={curves}
              capital={capital}
              currency={probe.input.settings.currency ?? ""}
              stretches={stretches}
              height={300}
              fileName={`probe-${probe.id}`}
            />
          )}
          <p className="mt-2 text-sm text-ink-soft">
            <span className="font-semibold">What this does not say.</span> {probe.caution}
          </p>
        </div>
      </div>
    </Panel>
  );
}
