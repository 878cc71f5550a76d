import { useMemo } from "react";
import type { Axis, RowFilter } from "#core/optimize";
import type { TrialView } from "#server/trials";
import { ParallelHeads, ParallelLines, type ParallelAxis } from "~/charts/parallel-lines";
import { metricLabel } from "~/design/format";
import { Panel } from "~/design/panel";

interface Props {
  axes: readonly Axis[];
  /** figures with an axis of their own, after the names */
  metrics: readonly string[];
  currency: string;
  /** some trials inside the limits, and of those that pass the filters */
  all: readonly TrialView[];
  passing: readonly TrialView[];
  filters: readonly RowFilter[];
  onFilters: (filters: readonly RowFilter[]) => void;
  marked: ReadonlyMap<number, string>;
  onPick: (trial: number) => void;
}

/** Trials as lines through all names and some figures. A stretch drawn on an axis is a filter of the table. */
export function LinesPanel({ axes, metrics, currency, all, passing, filters, onFilters, marked, onPick }: Props) {
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
