import { useEffect } from "react";
import { useFetcher } from "react-router";
import { METRICS } from "#core/metrics";
import type { FinerRow } from "~/routes/trials-finer";
import { Button } from "~/design/button";
import { Select } from "~/design/field";
import { metricLabel, metricText } from "~/design/format";
import { Panel } from "~/design/panel";
import { PlainTable } from "~/design/plain-table";

interface Props {
  optimization: number;
  trials: readonly number[];
  on: boolean;
  onAsk: () => void;
  metric: string;
  onMetric: (metric: string) => void;
  currency: string;
}

const FIGURES = ["netProfit", "profitToDrawdown", "profitFactor", "maxDrawdownPercent", "sharpe", "trades", "ambiguousBars"];

/** Chosen trials under finer bars, other fills and recorded costs, with the difference to the optimization's own assumptions. */
export function FinerPanel({ optimization, trials, on, onAsk, metric, onMetric, currency }: Props) {
  const fetcher = useFetcher<{ trials: number[]; rows: FinerRow[] }>();
  const asked = trials.join(",");
  const { submit } = fetcher;
  useEffect(() => {
    if (on) void submit({ trials: asked }, { method: "post", action: `/optimizations/${optimization}/finer` });
  }, [on, asked, optimization, submit]);
  const rows = fetcher.data?.rows ?? [];
  const first = rows[0]?.metrics ?? null;
  const names = ["as it stands", ...(fetcher.data?.trials ?? []).map((number) => `trial ${number}`)];
  return (
    <Panel
      flush
      title="Tested again more finely"
      note="the same dates under other assumptions; below each figure what it differs by"
      aside={
        <Select
          hideLabel
          className="w-48"
          label="Figure of the finer test"
          value={metric}
          choices={FIGURES.map((key) => ({ value: key, label: metricLabel(key, currency) }))}
          onChange={onMetric}
        />
      }
    >
      {!on ? (
        <div className="flex items-center gap-3 px-3.5 py-3 text-ink-soft">
          <Button onClick={onAsk}>Test again more finely</Button>
          <span>Fine bars, other fills, recorded costs. Each result counts as a look in the ledger.</span>
        </div>
      ) : rows.length === 0 ? (
        <p className="px-3.5 py-6 text-ink-soft">Computing …</p>
      ) : (
        <PlainTable
          label="Trials under other run settings"
          fileName={`optimization-${optimization}-finer-${metric}`}
          heads={["run settings", ...names]}
          rows={rows.map((row, i) => ({
            key: row.key,
            strong: i === 0,
            cells: [
              <span key="name" title={row.about}>
                {row.name}
                {row.why !== null && <span className="font-normal text-ink-soft">: {row.why}</span>}
              </span>,
              ...names.map((_, k) => {
                const value = row.metrics?.[k]?.[metric] ?? null;
                const own = first?.[k]?.[metric] ?? null;
                return (
                  <span key={k} data-finer={value ?? ""}>
                    {row.metrics === null ? "" : metricText(metric, value)}
                    {i > 0 && value !== null && own !== null && (
                      <span className={`block text-xs ${worse(metric, value - own) ? "text-clay" : "text-ink-soft"}`}>
                        {value === own
                          ? "the same"
                          : `${value > own ? "+" : "−"}${metricText(metric, Math.abs(value - own)).replace(/^[+−]/, "")}`}
                      </span>
                    )}
                  </span>
                );
              }),
            ],
            file: [row.name, ...names.map((_, k) => row.metrics?.[k]?.[metric] ?? null)],
          }))}
        />
      )}
    </Panel>
  );
}

const worse = (metric: string, difference: number): boolean => {
  const { better } = METRICS[metric];
  return better === "more" ? difference < 0 : better === "less" ? difference > 0 : false;
};
