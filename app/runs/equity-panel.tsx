import { useMemo } from "react";
import { useSearchParams } from "react-router";
import { DAY } from "#core/bars";
import type { Trade } from "#core/documents";
import { stretchFigures } from "#core/reading";
import { EquityChart, type Curve, type Stretch } from "~/charts/equity-chart";
import { Field } from "~/design/field";
import { dateText } from "~/design/format";
import { Panel } from "~/design/panel";
import { FactsTable } from "./facts-table";

interface Props {
  times: Float64Array;
  /** the run's own curve first */
  curves: Curve[];
  balance: readonly number[];
  trades: readonly Trade[];
  capital: number;
  currency: string;
  fileName: string;
}

const COLUMNS = ["netPercent", "cagr", "maxDrawdownPercent", "trades", "winRate", "averageTrade", "profitFactor"];

/** Equity and drawdown of a run: closed balance, logarithmic scale, and a stretch with figures of its own. All of it is in the address. */
export function EquityPanel({ times, curves, balance, trades, capital, currency, fileName }: Props) {
  const [params, setParams] = useSearchParams();
  const set = (key: string, value: string) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        if (value === "") next.delete(key);
        else next.set(key, value);
        return next;
      },
      { replace: true, preventScrollReset: true },
    );
  const positive = curves.every((curve) => Array.from(curve.values).every((value) => value === null || value > 0));
  const logarithmic = params.get("scale") === "log" && positive;
  const closed = params.get("balance") === "yes";
  const [from, to] = [params.get("from") ?? "", params.get("to") ?? ""];
  const shown = useMemo<Curve[]>(
    () => (closed ? [...curves, { name: "closed balance", values: balance, role: "before" }] : curves),
    [closed, curves, balance],
  );
  const [start, end] = [from === "" ? times[0] : Date.parse(from), to === "" ? times[times.length - 1] : Date.parse(to) + DAY - 1];
  const chosen = from !== "" || to !== "";
  const stretches = useMemo<Stretch[]>(
    () =>
      chosen
        ? [{ name: "the stretch", from: Math.max(start, times[0]), to: Math.min(end, times[times.length - 1]), tint: "in-sample" }]
        : [],
    [chosen, start, end, times],
  );
  const equity = curves[0].values as ArrayLike<number>;
  const figures = useMemo(
    () => (chosen ? stretchFigures(times, equity, trades, start, end, capital) : null),
    [chosen, times, equity, trades, start, end, capital],
  );
  const toggle = (on: boolean, label: string, change: () => void, disabled = false) => (
    <button
      type="button"
      aria-pressed={on}
      disabled={disabled}
      onClick={change}
      className={on ? "font-semibold text-ink" : "quiet-link disabled:opacity-50"}
    >
      {label}
    </button>
  );
  const range = { type: "date", min: dateText(times[0]), max: dateText(times[times.length - 1]) };
  return (
    <Panel
      title="Equity"
      className="min-w-0"
      aside={
        <>
          {toggle(closed, "closed balance", () => set("balance", closed ? "" : "yes"))} ·{" "}
          {toggle(
            logarithmic,
            positive ? "logarithmic" : "logarithmic: not with values at or below 0",
            () => set("scale", logarithmic ? "" : "log"),
            !positive,
          )}
        </>
      }
    >
      <EquityChart
        times={times}
        curves={shown}
        capital={capital}
        currency={currency}
        stretches={stretches}
        logarithmic={logarithmic}
        height={300}
        fileName={fileName}
      />
      <div className="mt-2 flex flex-wrap items-end gap-3">
        <Field className="w-36" label="A stretch from" value={from} onChange={(event) => set("from", event.target.value)} {...range} />
        <Field className="w-36" label="to" value={to} onChange={(event) => set("to", event.target.value)} {...range} />
        <p className="min-w-0 flex-1 pb-1 text-sm text-ink-soft">
          {chosen && figures === null
            ? "No bar of the run lies between these dates."
            : "has figures of its own; trades count where they were closed."}
        </p>
      </div>
      {figures !== null && (
        <div className="mt-2">
          <FactsTable
            fileName={`${fileName}-stretch`}
            label="The stretch and the rest"
            first="part"
            columns={COLUMNS}
            rows={[
              { key: "inside", name: "the stretch", strong: true, figures: figures.inside },
              { key: "outside", name: "the rest, put together", figures: figures.outside },
            ]}
          />
        </div>
      )}
    </Panel>
  );
}
