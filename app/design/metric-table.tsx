import type { Metrics } from "#core/documents";
import { METRIC_PARTS, METRICS, whyMissing } from "#core/metrics";
import { metricLabel, metricText } from "./format";
import { Tip } from "./tip";

/** A metric's definition and, where figures are at hand, those that went into it. */
export function MetricMeaning({ metric, figures, currency }: { metric: string; figures?: Metrics; currency?: string }) {
  const parts = figures === undefined ? [] : (METRIC_PARTS[metric] ?? []);
  return (
    <>
      {METRICS[metric].definition}
      {parts.length > 0 && (
        <span className="mt-1 block border-t border-edge pt-1">
          {parts.map((key) => (
            <span key={key} className="flex justify-between gap-4">
              <span>{metricLabel(key, currency).toLowerCase()}</span>
              <span className="figure-text">{metricText(key, figures![key])}</span>
            </span>
          ))}
        </span>
      )}
    </>
  );
}

/** A metric's name that explains itself on hover and focus. */
export function MetricName({ metric, currency, figures }: { metric: string; currency?: string; figures?: Metrics }) {
  return (
    <Tip text={<MetricMeaning metric={metric} figures={figures} currency={currency} />}>
      <button type="button" className="cursor-help text-left hover:underline hover:decoration-dotted hover:underline-offset-4">
        {metricLabel(metric, currency)}
      </button>
    </Tip>
  );
}

/** A metric's value; a dash says on hover and focus why there is none. */
function Value({ metric, figures, part }: { metric: string; figures: Metrics; part: "all" | "long" | "short" }) {
  const value = figures[metric] ?? null;
  if (value !== null) return metricText(metric, value);
  return (
    <Tip text={`No value: ${whyMissing(metric, figures, part)}.`}>
      <button type="button" className="cursor-help px-1" aria-label={`no value: ${whyMissing(metric, figures, part)}`}>
        –
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
              <MetricName metric={key} currency={currency} figures={metrics.all} />
            </th>
            {(["all", "long", "short"] as const).map((part) => (
              <td key={part} className={`figure-text pl-3 text-right ${part === "all" ? "font-semibold" : ""}`}>
                <Value metric={key} figures={metrics[part]} part={part} />
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
