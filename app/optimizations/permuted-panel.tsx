import { useMemo, useState } from "react";
import { Form, useFetcher } from "react-router";
import { METRICS } from "#core/metrics";
import type { Objective } from "#core/optimize";
import { histogramOf } from "#core/reading";
import type { PermutedStudy } from "#server/studies";
import { ColumnsChart } from "~/charts/columns-chart";
import { Button } from "~/design/button";
import { Field } from "~/design/field";
import { decimal, duration, metricText } from "~/design/format";
import { Panel, Problems } from "~/design/panel";

interface Props {
  studies: readonly PermutedStudy[];
  objective: Objective;
  /** what the real best has */
  own: number | null;
  /** how often luck reached it, of the newest study */
  reached: { count: number; share: number } | null;
  trials: number;
  number: number;
}

const FIELDS = [
  ["repetitions", "Repetitions", "w-28"],
  ["days", "Days a block", "w-28"],
  ["seed", "Seed of it", "w-20"],
] as const;

/** What as many trials would have found on the same market with its days in another order, where there is nothing to find. */
export function PermutedPanel({ studies, objective, own, reached, trials, number }: Props) {
  const fetcher = useFetcher<{ problems: { path: string; message: string }[] }>();
  const [typed, setTyped] = useState({ repetitions: "50", days: "5", seed: "1" });
  const [study] = studies;
  const open = study !== undefined && ["running", "queued", "paused"].includes(study.job.state);
  const known = useMemo(() => (study?.best ?? []).filter((value): value is number => value !== null), [study]);
  const bins = useMemo(() => histogramOf(own === null ? known : [...known, own]), [known, own]);
  const marked = useMemo(() => {
    const place = own === null ? -1 : bins.findIndex((bin) => own >= bin.from && own <= bin.to);
    return new Set(place < 0 ? [] : [place]);
  }, [bins, own]);
  const label = METRICS[objective.metric].label.toLowerCase();
  return (
    <Panel title="What luck alone would have found" note="the whole search repeated on the same market with its days in another order">
      <Problems problems={fetcher.data?.problems ?? []} title="This can't be computed" />
      {study === undefined ? (
        <p className="text-ink-soft">
          Blocks of days are put into another order, so that the market rises and falls by as much as it did and nothing lasts from block to
          block. All {decimal(trials, 0)} trials are made on it, and the best is noted; as many times as you ask for.
        </p>
      ) : (
        <div data-permuted={study.best.length} data-state={study.job.state}>
          <p>{sentence(study, known, own, reached, label, objective)}</p>
          {known.length > 0 && (
            <ColumnsChart
              label={`Best ${label} on permuted bars; the real one stands in the outlined column`}
              names={bins.map((bin) => decimal((bin.from + bin.to) / 2, Math.abs(bin.to) >= 100 ? 0 : 2))}
              values={bins.map((bin) => bin.count)}
              marked={marked}
              height={130}
              fileName={`optimization-${number}-permuted`}
            />
          )}
          <p className="mt-1 text-sm text-ink-soft">
            {decimal(study.best.length, 0)} of {decimal(study.repetitions, 0)} repetitions, blocks of {study.permuting.days}{" "}
            {study.permuting.days === 1 ? "day" : "days"}, seed {study.permuting.seed}
            {open ? `, ${study.job.state}${study.job.left === null ? "" : `, ${duration(study.job.left)} left`}` : ""}. What lasts no longer
            than a block is still there to be found. The ledger counts none of these: no real bar was looked at again.
          </p>
        </div>
      )}
      {open ? (
        <Form method="post" preventScrollReset className="mt-2">
          <input type="hidden" name="job" value={study.job.id} />
          <Button small look="quiet" type="submit" name="intent" value="stopStudy">
            Stop
          </Button>
        </Form>
      ) : (
        <fetcher.Form method="post" className="mt-2 flex flex-wrap items-end gap-2">
          <input type="hidden" name="intent" value="permuted" />
          {FIELDS.map(([name, label, width]) => (
            <Field
              key={name}
              figure
              className={width}
              inputMode="numeric"
              name={name}
              label={label}
              value={typed[name]}
              onChange={(event) => setTyped({ ...typed, [name]: event.target.value })}
            />
          ))}
          <Button small type="submit" disabled={fetcher.state !== "idle"}>
            {study === undefined ? "Repeat it on permuted bars" : "Once more"}
          </Button>
        </fetcher.Form>
      )}
    </Panel>
  );
}

function sentence(
  study: PermutedStudy,
  known: readonly number[],
  own: number | null,
  reached: Props["reached"],
  label: string,
  { metric }: Objective,
): string {
  if (study.best.length === 0) return "No repetition is finished yet.";
  if (own === null || reached === null) return `The real search found no trial inside the limits, so that there is no ${label} to compare.`;
  const middle = [...known].sort((a, b) => a - b)[Math.floor((known.length - 1) / 2)];
  const luck = known.length === 0 ? "luck found nothing inside the limits" : `luck alone gives ${metricText(metric, middle)} in the middle`;
  const said = `The real best has ${metricText(metric, own)}; ${luck}, and reached the real one in ${reached.count} of ${study.best.length}`;
  const share = `(at most ${decimal(100 * reached.share, 1)} % by luck)`;
  if (reached.share > 0.2) return `${said} ${share}: so many trials find as much where there is nothing.`;
  if (reached.share > 0.05) return `${said} ${share}: it may be luck.`;
  return `${said} ${share}: there was something to find.`;
}
