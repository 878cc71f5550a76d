import { METRICS } from "#core/metrics";
import type { Metrics } from "#core/documents";
import { metricLabel, metricText } from "./format";
import { Tip } from "./tip";

/** A metric's name that explains itself on hover and focus. */
export function MetricName({ metric, currency }: { metric: string; currency?: string }) {
  return (
    <Tip text={METRICS[metric].definition}>
      <button type="button" className="cursor-help text-left hover:underline hover:decoration-dotted hover:underline-offset-4">
        {metricLabel(metric, currency)}
      </button>
    </Tip>
  );
}

/** Figures for all, long and short trades, side by side. */
export function MetricTable({
  keys,
  metrics,
  currency = "SKR",
}: {
  keys: readonly string[];
  metrics: { all: Metrics; long: Metrics; short: Metrics };
  currency?: string;
}) {
  return (
    <table className="w-full border-collapse">
      <thead>
        <tr className="text-sm text-ink-soft">
          <th scope="col" className="pb-1 text-left font-normal">
            <span className="sr-only">figure</span>
          </th>
          {["all", "long", "short"].map((part) => (
            <th key={part} scope="col" className="pb-1 pl-3 text-right font-normal">
              {part}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {keys.map((key) => (
          <tr key={key} className="border-t border-edge/60">
            <th scope="row" className="py-[3px] text-left font-normal whitespace-nowrap">
              <MetricName metric={key} currency={currency} />
            </th>
            <td className="figure-text pl-3 text-right font-semibold">{metricText(key, metrics.all[key])}</td>
            <td className="figure-text pl-3 text-right">{metricText(key, metrics.long[key])}</td>
            <td className="figure-text pl-3 text-right">{metricText(key, metrics.short[key])}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
