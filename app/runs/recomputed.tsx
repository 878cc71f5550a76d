import { METRICS } from "#core/metrics";
import type { ResultDifference } from "#core/runs";
import { decimal, metricText } from "~/design/format";

/** What computing the run again gave, and where it differs from what was stored. */
export function Recomputed({ outcome }: { outcome: ResultDifference }) {
  const { same, engines, trades, firstTrade, finalEquity, metrics } = outcome;
  const version = engines[0] === engines[1] ? "" : ` The engine was version ${engines[0]} then and is ${engines[1]} now.`;
  if (same)
    return (
      <p role="status" className="mb-3 border-l-4 border-moss px-3 py-1">
        Computed again: the same result to the last bit.{version}
      </p>
    );
  return (
    <div role="status" className="mb-3 border-l-4 border-clay px-3 py-1">
      <p>
        Computed again: the result differs from what was stored.{version}{" "}
        {firstTrade === null ? "The trades are the same" : `Trades differ from number ${firstTrade} on`}
        {trades[0] === trades[1] ? "" : `, ${trades[0]} then, ${trades[1]} now`}; equity at the end {decimal(finalEquity[0], 2)} →{" "}
        {decimal(finalEquity[1], 2)}.
      </p>
      {metrics.length > 0 && (
        <ul className="list-disc pl-5 text-sm">
          {metrics.slice(0, 12).map(({ key, before, now }) => (
            <li key={key}>
              {METRICS[key]?.label ?? key}: {metricText(key, before)} → {metricText(key, now)}
            </li>
          ))}
          {metrics.length > 12 && <li>and {metrics.length - 12} figures more</li>}
        </ul>
      )}
    </div>
  );
}
