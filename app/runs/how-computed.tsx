import { Link } from "react-router";
import type { Metrics } from "#core/documents";
import type { RunSummary } from "#server/runs";
import { decimal, momentText } from "~/design/format";
import { Panel } from "~/design/panel";

const INTRABAR = {
  pessimistic: "the stop first where a bar holds both",
  optimistic: "the target first where a bar holds both",
  path: "by the path of the bar where it holds both",
};

/** Everything that a run's result rests on, in words. */
export function HowComputed({ summary, all }: { summary: RunSummary; all: Metrics }) {
  const { settings } = summary;
  const { costs } = settings;
  const rows: [string, React.ReactNode][] = [
    ["stored", momentText(summary.createdAt)],
    [
      "run settings",
      summary.under === null ? (
        "as they stood when it was stored"
      ) : (
        <Link className="quiet-link" to={`/run-settings/${summary.under.id}`}>
          {summary.under.name}, version {summary.under.number}
        </Link>
      ),
    ],
    ["engine", summary.engine],
    ["fingerprint", summary.fingerprint],
    ["bars", settings.markets.map((m) => `${m.symbol} ${m.bars.slice(0, 12)}`).join(", ")],
    ["spread, slippage", `${costs.spreadTicks}, ${costs.slippageTicks} ticks`],
    ["commission", `${costs.perUnit} per unit, ${costs.perOrder} per order, ${costs.percent} %`],
    ["fills", INTRABAR[settings.intrabar] + (settings.fineTimeframe === null ? "" : `, decided by ${settings.fineTimeframe} bars`)],
    ["undecided bars", `${decimal(all.ambiguousBars, 0)} in which the mode had to decide`],
  ];
  return (
    <Panel title="How it was computed">
      <dl className="grid grid-cols-[auto_1fr_auto_1fr] gap-x-4 gap-y-1">
        {rows.map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-ink-soft">{name}</dt>
            <dd className={`min-w-0 break-all ${name === "fingerprint" ? "figure-text" : ""}`}>{value}</dd>
          </div>
        ))}
      </dl>
    </Panel>
  );
}
