import { useMemo } from "react";
import { DAY, formatMonth, monthOf } from "#core/bars";
import { exitMoment, type RunResult, type Trade } from "#core/documents";
import { useAddress } from "~/design/use-address";
import { ColumnsChart } from "~/charts/columns-chart";
import { Select } from "~/design/field";
import { decimal, signed } from "~/design/format";
import { Panel } from "~/design/panel";
import { saveCsv } from "~/design/save";
import { YearTable } from "./year-table";

const VIEWS = ["compounded", "uncompounded", "trades"] as const;
type View = (typeof VIEWS)[number];

const WORDS: Record<View, { label: string; note: string }> = {
  compounded: { label: "compounded returns, %", note: "on the equity at the beginning of each month and year" },
  uncompounded: { label: "uncompounded returns, %", note: "net of the trades closed in it, on the starting capital" },
  trades: { label: "trades closed", note: "by the month of the exit" },
};

/** Years by months, and years as columns: returns with and without compounding, or trades. */
export function CalendarPanel({ tables, trades, fileName }: { tables: RunResult["tables"]; trades: readonly Trade[]; fileName: string }) {
  const { params, set } = useAddress();
  const asked = params.get("calendar") as View;
  const view: View = VIEWS.includes(asked) ? asked : "compounded";
  const { months, years } = useMemo(() => {
    const value = (row: RunResult["tables"]["years"][number]) => (view === "compounded" ? row.percent : row.uncompounded);
    const counts = new Map<string, number>();
    if (view === "trades")
      for (const trade of trades)
        if (!trade.open) {
          const month = monthOf(Math.floor(exitMoment(trade) / DAY));
          for (const period of [formatMonth(month), String(Math.floor(month / 12) + 1970)])
            counts.set(period, (counts.get(period) ?? 0) + 1);
        }
    const cells = (rows: RunResult["tables"]["years"]) =>
      new Map(rows.map((row) => [row.period, view === "trades" ? (counts.get(row.period) ?? 0) : value(row)]));
    return { months: cells(tables.months), years: cells(tables.years) };
  }, [tables, trades, view]);
  const digits = view === "trades" ? 0 : 1;
  const choose = (value: string) => set("calendar", value === "compounded" ? null : value);
  return (
    <Panel
      title="Year by month"
      note={`${WORDS[view].note}; boxed: the most and the least`}
      aside={
        <span className="flex items-center gap-3">
          <button
            type="button"
            className="quiet-link"
            onClick={() =>
              saveCsv(
                `${fileName}-${view}`,
                ["period", view],
                [...months, ...years].map(([period, value]) => [period, value ?? ""]),
              )
            }
          >
            CSV
          </button>
          <Select
            label="Calendar shows"
            hideLabel
            className="w-56"
            value={view}
            choices={VIEWS.map((value) => ({ value, label: WORDS[value].label }))}
            onChange={choose}
          />
        </span>
      }
    >
      <YearTable
        months={months}
        years={years}
        text={(x) => decimal(x, digits)}
        total={(x) => (view === "trades" ? decimal(x, 0) : signed(x, 1))}
      />
      {years.size > 1 && (
        <div className="mt-3">
          <ColumnsChart
            label={`Years: ${WORDS[view].label}`}
            names={[...years.keys()]}
            values={[...years.values()].map((value) => value ?? 0)}
            height={130}
            fileName={`${fileName}-years`}
            format={(x) => decimal(x, digits)}
          />
        </div>
      )}
    </Panel>
  );
}
