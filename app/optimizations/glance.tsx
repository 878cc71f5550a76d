import { useCallback, useMemo } from "react";
import { useNavigate } from "react-router";
import { METRIC_KEYS } from "#core/metrics";
import type { Judgement } from "#server/judgement-stream";
import type { Glance as Given } from "#server/trials";
import { ColumnsChart } from "~/charts/columns-chart";
import { TrialScatter } from "~/charts/trial-scatter";
import { Select } from "~/design/field";
import { decimal, metricLabel } from "~/design/format";
import { Panel } from "~/design/panel";

interface Props {
  /** trials inside the limits by both figures */
  glance: Given;
  figures: readonly [x: string, y: string];
  judged: Judgement;
  currency: string;
  number: number;
  /** figures that the trials keep */
  kept: (key: string) => boolean;
  onFigure: (axis: "x" | "y", key: string) => void;
  /** where a trial is opened */
  addressOf: (trial: number) => string;
}

/** All trials at once: by two figures of one's choice, and how the first of them is spread. */
export function Glance({
  glance: { dots, front, bins, count },
  figures: [x, y],
  judged,
  currency,
  number,
  kept,
  onFigure,
  addressOf,
}: Props) {
  const navigate = useNavigate();
  const marks = useMemo(
    () =>
      (
        [
          [judged.baseline, "○"],
          [judged.recommended?.metrics, "◎"],
          [judged.peak?.metrics, "✕"],
        ] as const
      ).flatMap(([metrics, sign]) => {
        const [a, b] = [metrics?.[x] ?? null, metrics?.[y] ?? null];
        return a === null || b === null ? [] : [{ x: a, y: b, sign }];
      }),
    [judged, x, y],
  );
  const axes = useMemo(() => [metricLabel(x, currency), metricLabel(y, currency)] as const, [x, y, currency]);
  const place = (value: number | null | undefined) =>
    value === null || value === undefined ? -1 : bins.findIndex((bin) => value >= bin.from && value <= bin.to);
  const places = {
    peak: place(judged.peak?.metrics[x]),
    middle: place(judged.recommended?.metrics[x]),
    version: place(judged.baseline[x]),
  };
  const marked = useMemo(
    () => new Set([places.peak, places.middle, places.version].filter((bin) => bin >= 0)),
    [places.peak, places.middle, places.version],
  );
  const pick = useCallback((trial: number) => void navigate(addressOf(trial)), [navigate, addressOf]);
  const choices = METRIC_KEYS.filter(kept).map((value) => ({ value, label: metricLabel(value, "money") }));
  const said = (name: string, bin: number) =>
    bin < 0 ? [] : [`${name} in the bin around ${decimal((bins[bin].from + bins[bin].to) / 2, 2)}`];
  return (
    <Panel
      title="All trials at a glance"
      note={`${decimal(count, 0)} that have both figures; ${decimal(front.length, 0)} that none beats in both`}
      aside={
        <span className="flex items-center gap-2">
          <Select label="Figure along" hideLabel className="w-44" value={x} choices={choices} onChange={(key) => onFigure("x", key)} />
          <Select label="Figure upward" hideLabel className="w-44" value={y} choices={choices} onChange={(key) => onFigure("y", key)} />
        </span>
      }
    >
      {count === 0 ? (
        <p className="text-ink-soft">No trial inside the limits has both figures.</p>
      ) : (
        <div className="grid grid-cols-2 gap-4">
          <TrialScatter
            label={`Trials by ${axes[0]} and ${axes[1]}`}
            trials={dots}
            front={front}
            marks={marks}
            axes={axes}
            fileName={`optimization-${number}-${x}-${y}`}
            onPick={pick}
          />
          <div>
            <ColumnsChart
              label={`Trials by ${axes[0]}`}
              names={bins.map((bin) => decimal((bin.from + bin.to) / 2, Math.abs(bin.to) >= 100 ? 0 : 2))}
              values={bins.map((bin) => bin.count)}
              marked={marked}
              height={260}
              fileName={`optimization-${number}-${x}`}
            />
            <p className="text-sm text-ink-soft">
              Outlined:{" "}
              {[...said("the peak", places.peak), ...said("the middle", places.middle), ...said("the version", places.version)].join(", ")}.
            </p>
          </div>
        </div>
      )}
    </Panel>
  );
}
