import { useEffect, useMemo } from "react";
import { useFetcher } from "react-router";
import type { Axis, RowFilter } from "#core/optimize";
import type { TrialView } from "#server/trials";
import { ParallelHeads, ParallelLines, type ParallelAxis } from "~/charts/parallel-lines";
import { metricLabel } from "~/design/format";
import { Panel } from "~/design/panel";
import { writeFilters } from "./trial-question";

interface Props {
  id: number;
  axes: readonly Axis[];
  /** figures with an axis of their own, after the names */
  metrics: readonly string[];
  currency: string;
  /** some trials inside the limits */
  all: readonly TrialView[];
  filters: readonly RowFilter[];
  onFilters: (filters: readonly RowFilter[]) => void;
  marked: ReadonlyMap<number, string>;
  onPick: (trial: number) => void;
}

function passes(trial: TrialView, { key, least, most }: RowFilter): boolean {
  const value = trial.values[key] ?? trial.metrics[key];
  // a figure that the lines do not hold is looked at by the server
  if (value === undefined) return true;
  return value !== null && value >= (least ?? -Infinity) && value <= (most ?? Infinity);
}

/** Trials as lines through all names and some figures. A stretch drawn on an axis is a filter of the table. */
export function LinesPanel({ id, axes, metrics, currency, all, filters, onFilters, marked, onPick }: Props) {
  const fetcher = useFetcher<{ of: string; rows: TrialView[] }>();
  const { load } = fetcher;
  const asked = writeFilters(filters.filter(({ least, most }) => least !== null || most !== null));
  const of = `/optimizations/${id}/trials?${new URLSearchParams({ f: asked ?? "", lines: metrics.join(",") })}`;
  useEffect(() => {
    if (asked !== null) void load(of);
  }, [asked, of, load]);
  const found = fetcher.data?.of === asked ? fetcher.data.rows : null;
  // until those that pass have come, of those at hand the ones that do
  const passing = useMemo(
    () => (asked === null ? all : (found ?? all.filter((trial) => filters.every((filter) => passes(trial, filter))))),
    [asked, all, found, filters],
  );
  const upright = useMemo((): ParallelAxis[] => {
    const ends = (values: readonly (number | null)[]) => {
      const known = values.filter((value) => value !== null);
      return known.length === 0 ? { from: 0, to: 1 } : { from: Math.min(...known), to: Math.max(...known) };
    };
    return [
      ...axes.map(({ name, values }) => ({ key: name, label: name, ...ends(values) })),
      ...metrics.map((key) => ({ key, label: metricLabel(key, currency), ...ends(all.map((trial) => trial.metrics[key])) })),
    ];
  }, [axes, metrics, currency, all]);
  const lines = useMemo(() => {
    const strong = new Set(passing.map((trial) => trial.number));
    const line = (trial: TrialView) => ({
      id: trial.number,
      values: [...axes.map(({ name }) => trial.values[name]), ...metrics.map((key) => trial.metrics[key])],
      strong: strong.has(trial.number),
    });
    return [...all.filter((trial) => !strong.has(trial.number)), ...passing].map(line);
  }, [axes, metrics, all, passing]);
  const stretches = useMemo(() => new Map(filters.map(({ key, least, most }) => [key, { least, most }])), [filters]);
  return (
    <Panel
      title="Every name at once"
      note="the best trials and some of the rest, one line each; draw a stretch on an axis to keep what runs through it, click beside it to let it go"
    >
      <ParallelHeads axes={upright} />
      <ParallelLines
        label={`Trials as lines through ${upright.map((axis) => axis.label).join(", ")}`}
        axes={upright}
        lines={lines}
        marked={marked}
        stretches={stretches}
        onStretch={(key, stretch) =>
          onFilters([...filters.filter((one) => one.key !== key), ...(stretch === null ? [] : [{ key, ...stretch }])])
        }
        onPick={onPick}
      />
    </Panel>
  );
}
