import { Link } from "react-router";
import type { Point } from "#core/reading";
import type { TrialView } from "#server/trials";
import { Sparkline } from "~/design/sparkline";
import { metricText } from "~/design/format";
import { Panel } from "~/design/panel";
import { METRICS } from "#core/metrics";

/** The best trial while others are at work: its values, its figures and its equity. */
export function BestSoFar({
  best,
  curve,
  capital,
  columns,
  address,
}: {
  best: TrialView;
  curve: readonly Point[];
  capital: number;
  columns: readonly string[];
  address: string;
}) {
  return (
    <Panel
      className="mb-3"
      title="Best so far"
      note={`trial ${best.number}: ${Object.entries(best.values)
        .map(([name, x]) => `${name} ${Number(x.toPrecision(6))}`)
        .join(", ")}`}
      aside={
        <Link className="quiet-link" to={address}>
          look at it
        </Link>
      }
    >
      <div className="flex flex-wrap items-center gap-x-8 gap-y-2" data-best={best.number}>
        <Sparkline values={curve.map((point) => point.y)} base={capital} width={420} height={84} label={`Equity of trial ${best.number}`} />
        <dl className="flex flex-wrap gap-x-6 gap-y-1">
          {columns.map((key) => (
            <div key={key}>
              <dt className="text-sm text-ink-soft">{METRICS[key].label}</dt>
              <dd className="figure-text m-0">{metricText(key, best.metrics[key])}</dd>
            </div>
          ))}
        </dl>
      </div>
    </Panel>
  );
}
