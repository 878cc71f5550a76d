import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState, type KeyboardEvent, type ReactNode } from "react";
import { Link } from "react-router";
import type { Metrics } from "#core/documents";
import { METRICS } from "#core/metrics";
import type { TrialPage, TrialView } from "#server/trials";
import { decimal, metricLabel, metricText } from "~/design/format";
import { SortHead } from "~/design/sort-head";
import { useTrialRows } from "./use-trial-rows";

const ROW = 26;

interface Props {
  id: number;
  names: readonly string[];
  columns: readonly string[];
  currency: string;
  /** metrics of the objective; with several there is a fit of its own */
  objective: readonly string[];
  /** the first rows, and the part of the address that they came by */
  first: TrialPage;
  firstAsked: string;
  /** the part of the address that the rows come by, and what changes when there are more of them */
  asked: string;
  stamp: string;
  sort: string;
  onSort: (sort: string) => void;
  baseline: { values: Readonly<Record<string, number>>; metrics: Metrics } | null;
  marks: ReadonlyMap<number, { sign: string; name: string }>;
  picked: ReadonlySet<number>;
  onPick: (number: number) => void;
  addressOf: (trial: TrialView) => string;
  onOpen: (trial: TrialView) => void;
  height?: number;
  foot?: ReactNode;
}

/** Trials as rows, however many: the server sorts and filters, the page holds what is in view. Arrow keys walk, Space picks, Enter opens. */
export function TrialTable(props: Props) {
  const {
    id,
    names,
    columns,
    currency,
    objective,
    first,
    firstAsked,
    asked,
    stamp,
    sort,
    onSort,
    baseline,
    marks,
    picked,
    onPick,
    height = 520,
  } = props;
  const scroll = useRef<HTMLDivElement>(null);
  const [ready, setReady] = useState(false);
  const [at, setAt] = useState(-1);
  useEffect(() => setReady(true), []);
  const { rowAt, need, problem, count, all, current } = useTrialRows(id, asked, stamp, first, firstAsked);
  const virtual = useVirtualizer({
    count: count,
    getScrollElement: () => scroll.current,
    estimateSize: () => ROW,
    overscan: 12,
    enabled: ready,
  });
  const items = virtual.getVirtualItems();
  const [from, to] = items.length === 0 ? [0, 0] : [items[0].index, items[items.length - 1].index];
  useEffect(() => {
    if (count > 0) need(from, to);
  }, [from, to, count, need, asked, stamp]);
  useEffect(() => setAt(-1), [asked]);
  const several = objective.length > 1;
  const shown = ready ? items.map((item) => item.index) : first.rows.slice(0, 30).map((_, i) => i);
  const before = ready && items.length > 0 ? items[0].start : 0;
  const after = ready && items.length > 0 ? virtual.getTotalSize() - items[items.length - 1].end : 0;
  const walk = (event: KeyboardEvent) => {
    const steps: Record<string, number> = { ArrowDown: 1, ArrowUp: -1, PageDown: 15, PageUp: -15, Home: -count, End: count };
    if (event.target !== scroll.current) return;
    if (event.key in steps && count > 0) {
      event.preventDefault();
      const next = Math.min(count - 1, Math.max(0, at + steps[event.key]));
      setAt(next);
      virtual.scrollToIndex(next);
      return;
    }
    const row = at < 0 ? undefined : rowAt(at);
    if (row === undefined) return;
    if (event.key === " ") {
      event.preventDefault();
      onPick(row.number);
    } else if (event.key === "Enter") props.onOpen(row);
  };
  const head = (key: string, label: string) => (
    <SortHead key={key} column={key} sort={sort} onSort={onSort}>
      {label}
    </SortHead>
  );
  return (
    <div>
      <div
        ref={scroll}
        className="overflow-auto [contain:content]"
        style={{ height: Math.min(height, 70 + ROW * (count + (baseline === null ? 0 : 1))) }}
        tabIndex={0}
        role="region"
        aria-label="Trials"
        aria-busy={!current}
        onKeyDown={walk}
      >
        <table className="w-full border-collapse">
          <thead className="sticky top-0 z-10 bg-sheet text-sm text-ink-soft">
            <tr>
              <th scope="col" className="py-1 pl-3.5 font-normal">
                <span className="sr-only">picked</span>
              </th>
              {head("number", "trial")}
              {several && head("fit", "fit")}
              {names.map((name) => head(name, name))}
              {columns.map((key) => head(key, columnHead(key, currency)))}
            </tr>
            {baseline !== null && (
              <tr className="border-t border-edge/60 bg-shade text-base text-ink">
                <td />
                <th scope="row" className="px-2 py-[3px] text-right font-normal whitespace-nowrap">
                  as it stands
                </th>
                {several && <td className="figure-text px-2 text-right">–</td>}
                {names.map((name) => (
                  <td key={name} className="figure-text px-2 text-right">
                    {name in baseline.values ? Number(baseline.values[name].toPrecision(12)) : "–"}
                  </td>
                ))}
                {columns.map((key) => (
                  <td key={key} className="figure-text px-2 text-right whitespace-nowrap">
                    {metricText(key, baseline.metrics[key])}
                  </td>
                ))}
              </tr>
            )}
          </thead>
          <tbody>
            {before > 0 && <tr style={{ height: before }} aria-hidden />}
            {shown.map((index) => {
              const trial = rowAt(index);
              if (trial === undefined)
                return (
                  <tr key={`at ${index}`} style={{ height: ROW }} className="border-t border-edge/60">
                    <td colSpan={2 + names.length + columns.length + (several ? 1 : 0)} className="px-3.5 text-ink-faint">
                      …
                    </td>
                  </tr>
                );
              const mark = marks.get(trial.number);
              const fault = trial.faults.join("; ");
              return (
                <tr
                  key={trial.number}
                  data-trial={trial.number}
                  aria-selected={index === at}
                  style={{ height: ROW }}
                  className={`border-t border-edge/60 ${index === at ? "bg-shade/40 outline outline-1 -outline-offset-1 outline-ink-faint" : "hover:bg-shade/50"} ${trial.fit === null ? "text-ink-soft" : ""}`}
                >
                  <td className="pl-3.5">
                    <input
                      type="checkbox"
                      checked={picked.has(trial.number)}
                      aria-label={`Pick trial ${trial.number}`}
                      onChange={() => onPick(trial.number)}
                    />
                  </td>
                  <td className="figure-text px-2 text-right whitespace-nowrap">
                    {fault !== "" && (
                      <span className="mr-1 text-sm text-clay" title={fault}>
                        <span aria-hidden>⊘</span>
                        <span className="sr-only">{fault}</span>
                      </span>
                    )}
                    <Link to={props.addressOf(trial)} className="quiet-link" aria-label={`Open trial ${trial.number} as a backtest`}>
                      {trial.number}
                    </Link>
                    {mark && <span aria-label={mark.name}> {mark.sign}</span>}
                  </td>
                  {several && <td className="figure-text px-2 text-right font-semibold">{decimal(trial.fit, 1)}</td>}
                  {names.map((name) => (
                    <td key={name} className="figure-text px-2 text-right">
                      {Number(trial.values[name].toPrecision(12))}
                    </td>
                  ))}
                  {columns.map((key) => (
                    <td
                      key={key}
                      className={`figure-text px-2 text-right whitespace-nowrap ${objective.includes(key) ? "font-semibold" : ""}`}
                    >
                      {metricText(key, trial.metrics[key])}
                    </td>
                  ))}
                </tr>
              );
            })}
            {after > 0 && <tr style={{ height: after }} aria-hidden />}
          </tbody>
        </table>
        {count === 0 && (
          <p className="px-3.5 py-6 text-ink-soft">
            {all === 0 ? "No trial is there yet." : "No trial passes the filters. Take one off to see more."}
          </p>
        )}
      </div>
      {problem !== null && (
        <p role="alert" className="px-3.5 py-1 text-sm text-clay">
          {problem}
        </p>
      )}
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-edge px-3.5 py-1.5 text-sm text-ink-soft">
        <span data-rows={count}>{count === all ? decimal(all, 0) : `${decimal(count, 0)} of ${decimal(all, 0)}`} trials</span>
        <span>⊘ outside the limits: the sign says why</span>
        {props.foot}
      </div>
    </div>
  );
}

/** A figure's name as a column's head, the currency as it is written. */
export const columnHead = (metric: string, currency: string): string =>
  METRICS[metric].label.toLowerCase() + metricLabel(metric, currency).slice(METRICS[metric].label.length);
