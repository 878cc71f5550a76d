import { Link } from "react-router";
import type { OptimizationView } from "#server/optimizations";
import { dateText, decimal } from "~/design/format";
import { objectiveWords } from "./words";

/** Optimizations as rows, with how each stands. */
export function OptimizationList({ optimizations }: { optimizations: readonly OptimizationView[] }) {
  return (
    <div className="overflow-x-auto rounded-[4px] border border-edge bg-sheet">
      <table className="w-full border-collapse">
        <thead className="text-sm text-ink-soft">
          <tr>
            {["optimization", "market", "dates", "varied", "objective", "trials", "state", "begun"].map((head) => (
              <th
                key={head}
                scope="col"
                className={`px-3 py-2 font-normal ${head === "trials" || head === "begun" ? "text-right" : "text-left"}`}
              >
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {optimizations.map((view) => (
            <tr key={view.id} className="border-t border-edge hover:bg-shade/50">
              <th scope="row" className="px-3 py-2 text-left">
                <Link to={`/optimizations/${view.id}`} className="no-underline hover:underline">
                  {view.strategyName} v{view.versionNumber}, no. {view.number}
                </Link>
              </th>
              <td className="px-3">{view.settings.markets.map((market) => market.symbol).join(", ")}</td>
              <td className="figure-text px-3">
                {view.settings.from ?? "start"} to {view.settings.to ?? "end"}
              </td>
              <td className="figure-text px-3">{view.search.vary.map((item) => item.name).join(", ")}</td>
              <td className="px-3">{objectiveWords(view.search.objective)}</td>
              <td className="figure-text px-3 text-right">
                {decimal(view.job.done, 0)} of {decimal(view.job.total, 0)}
              </td>
              <td className="px-3">
                <span
                  className={
                    view.job.state === "running" || view.job.state === "queued"
                      ? "text-ochre-ink"
                      : view.job.state === "failed"
                        ? "text-clay"
                        : ""
                  }
                >
                  {view.job.state}
                </span>
              </td>
              <td className="figure-text px-3 text-right">{dateText(view.createdAt)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
