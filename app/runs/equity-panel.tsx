import { useMemo } from "react";
import { useSearchParams } from "react-router";
import { DAY } from "#core/bars";
import type { Curves, Trade } from "#core/documents";
import { byTradeNumber, fallsOf, stretchFigures, uncompounded } from "#core/reading";
import { EquityChart, type Curve, type FallMark, type Stretch } from "~/charts/equity-chart";
import { LinesChart, type Line } from "~/charts/lines-chart";
import { Field } from "~/design/field";
import { dateText, decimal } from "~/design/format";
import { Panel } from "~/design/panel";
import { FactsTable } from "./facts-table";

interface Props {
  curves: Curves;
  /** the run's name in the legend */
  name: string;
  benchmark: Curve | null;
  trades: readonly Trade[];
  capital: number;
  currency: string;
  fileName: string;
}

const COLUMNS = ["netPercent", "cagr", "maxDrawdownPercent", "trades", "winRate", "averageTrade", "profitFactor"];

/** Equity and drawdown of a run, by date or by trade number, with a stretch that has figures of its own. All of it is in the address. */
export function EquityPanel({ curves: { time, equity, balance }, name, benchmark, trades, capital, currency, fileName }: Props) {
  const [params, setParams] = useSearchParams();
  const set = (changes: Record<string, string>) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        for (const [key, value] of Object.entries(changes))
          if (value === "") next.delete(key);
          else next.set(key, value);
        return next;
      },
      { replace: true, preventScrollReset: true },
    );
  const has = (key: string, value: string) => params.get(key) === value;
  const [closed, added, numbered] = [has("balance", "yes"), has("added", "yes"), has("along", "trades")];
  const curves = useMemo<Curve[]>(() => {
    const out: Curve[] = [{ name, values: equity, role: "main" }];
    if (benchmark !== null) out.push(benchmark);
    if (closed) out.push({ name: "closed balance", values: balance, role: "before" });
    if (added) out.push({ name: "uncompounded", values: uncompounded(equity, capital), role: "second" });
    return out;
  }, [name, equity, benchmark, closed, balance, added, capital]);
  const positive = useMemo(() => curves.every((curve) => allAbove(curve.values)), [curves]);
  const logarithmic = has("scale", "log") && positive;
  const [from, to] = [params.get("from") ?? "", params.get("to") ?? ""];
  const [start, end] = [from === "" ? time[0] : Date.parse(from), to === "" ? time[time.length - 1] : Date.parse(to) + DAY - 1];
  const chosen = from !== "" || to !== "";
  const stretches = useMemo<Stretch[]>(
    () =>
      chosen ? [{ name: "the stretch", from: Math.max(start, time[0]), to: Math.min(end, time[time.length - 1]), tint: "in-sample" }] : [],
    [chosen, start, end, time],
  );
  const figures = useMemo(
    () => (chosen ? stretchFigures(time, equity, trades, start, end, capital) : null),
    [chosen, time, equity, trades, start, end, capital],
  );
  const marks = useMemo(() => fallMarks(time, equity, capital), [time, equity, capital]);
  const byNumber = useMemo<Line[] | null>(() => {
    if (!numbered) return null;
    const value = byTradeNumber(trades, capital);
    return [{ name: "capital and the net of the closed trades", time: Float64Array.from(value, (_, i) => i), value }];
  }, [numbered, trades, capital]);
  const toggle = (on: boolean, label: string, changes: Record<string, string>, disabled = false) => (
    <button
      type="button"
      aria-pressed={on}
      disabled={disabled}
      onClick={() => set(changes)}
      className={on ? "font-semibold text-ink" : "quiet-link disabled:opacity-50"}
    >
      {label}
    </button>
  );
  const range = { type: "date", min: dateText(time[0]), max: dateText(time[time.length - 1]) };
  return (
    <Panel
      title="Equity"
      className="min-w-0"
      aside={
        <span className="flex flex-wrap justify-end gap-x-3">
          {toggle(numbered, "by trade number", { along: numbered ? "" : "trades" })}
          {toggle(closed, "closed balance", { balance: closed ? "" : "yes" }, numbered)}
          {toggle(added, "uncompounded", { added: added ? "" : "yes" }, numbered)}
          {toggle(
            logarithmic,
            positive ? "logarithmic" : "logarithmic: not with values at or below 0",
            { scale: logarithmic ? "" : "log" },
            !positive || numbered,
          )}
        </span>
      }
    >
      {byNumber !== null ? (
        <LinesChart label="Equity by trade number" lines={byNumber} numbered="trade" height={300} fileName={`${fileName}-by-trade`} />
      ) : (
        <EquityChart
          times={time}
          curves={curves}
          capital={capital}
          currency={currency}
          stretches={stretches}
          marks={marks}
          logarithmic={logarithmic}
          height={300}
          fileName={fileName}
          onBrush={(a, b) => set({ from: dateText(a), to: dateText(b) })}
        />
      )}
      {byNumber === null && (
        <div className="mt-2 flex flex-wrap items-end gap-3">
          <Field className="w-36" label="A stretch from" value={from} onChange={(event) => set({ from: event.target.value })} {...range} />
          <Field className="w-36" label="to" value={to} onChange={(event) => set({ to: event.target.value })} {...range} />
          <p className="min-w-0 flex-1 pb-1 text-sm text-ink-soft">
            {chosen && figures === null
              ? "No bar of the run lies between these dates."
              : "Draw a stretch over the curve with the mouse, or give its dates: it gets figures of its own. Trades count where they were closed."}
            {chosen && (
              <button type="button" className="quiet-link ml-2" onClick={() => set({ from: "", to: "" })}>
                all of it
              </button>
            )}
          </p>
        </div>
      )}
      {figures !== null && byNumber === null && (
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

function allAbove(values: ArrayLike<number | null>): boolean {
  for (let t = 0; t < values.length; t++) if (values[t] !== null && !(values[t]! > 0) && !Number.isNaN(values[t])) return false;
  return true;
}

/** The deepest and the longest fall, as lines at their peaks. */
function fallMarks(time: Float64Array, equity: Float64Array, capital: number): FallMark[] {
  const falls = fallsOf(time, equity, capital);
  if (falls.length === 0) return [];
  const deepest = falls.reduce((most, fall) => (fall.percent > most.percent ? fall : most));
  const longest = falls.reduce((most, fall) => (fall.days > most.days ? fall : most));
  const mark = (fall: typeof deepest, what: string): FallMark => ({
    name: `${what}: ${decimal(fall.percent, 1)} %, ${decimal(fall.days, 0)} days`,
    from: fall.start,
    to: fall.recovered ?? time[time.length - 1],
    level: (100 * fall.money) / fall.percent,
  });
  return deepest === longest ? [mark(deepest, "deepest and longest fall")] : [mark(deepest, "deepest fall"), mark(longest, "longest fall")];
}
