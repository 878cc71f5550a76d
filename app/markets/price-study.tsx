import { useCallback, useEffect, useMemo, useState } from "react";
import { compareTimeframes, firstAtOrAfter, MarketCalendar, parseTimeframe, resampleFault, sessionDates, type Bars } from "#core/bars";
import type { MarketView, SourceView } from "#server/markets";
import { CompareChart } from "~/charts/compare-chart";
import { Key } from "~/charts/chart";
import { PaneChart } from "~/charts/pane-chart";
import type { LiveMarks, Measure, Overlay } from "~/charts/price-bars";
import { PriceChart } from "~/charts/price-chart";
import { decimal, duration, momentText, price, signed } from "~/design/format";
import { Problems } from "~/design/panel";
import type { StudyState } from "./study-state";
import { useFormulas } from "./use-formulas";
import { asksForSeries, useSeries } from "./use-series";
import { useDerived } from "./use-derived";
import { loadBars, useBars, type LoadedBars } from "./use-bars";

/** Timeframes at a keystroke, finest first. */
export const QUICK_TIMEFRAMES = ["1m", "5m", "20m", "1h", "3h", "1d", "1w", "1M"] as const;

/** Whether a source can show a timeframe. */
export function canShow(source: SourceView, timeframe: string): boolean {
  const wanted = parseTimeframe(timeframe);
  return wanted !== null && resampleFault(parseTimeframe(source.timeframe)!, wanted) === null;
}

/** The source that shows a timeframe: the chosen one if it can, else another of its name, else any that can. */
export function showingSource(market: MarketView, chosen: SourceView, timeframe: string): SourceView | null {
  if (canShow(chosen, timeframe)) return chosen;
  const able = market.sources.filter((source) => canShow(source, timeframe));
  able.sort((a, b) => compareTimeframes(parseTimeframe(b.timeframe)!, parseTimeframe(a.timeframe)!));
  return able.find((source) => source.name === chosen.name) ?? able[0] ?? null;
}

/** Formulas' columns on the bars shown, with the market's extra series where one is asked for. */
function useStudyFormulas(market: MarketView, hash: string | null, timeframe: string, rules: readonly string[]) {
  const asked = asksForSeries(rules.join(" "));
  const series = useSeries(market.symbol, asked);
  const given = { session: market.spec.session, series: asked ? (series ?? {}) : {} };
  return useFormulas(given, hash, timeframe, rules, !asked || series !== null);
}

function Readout({ bars, row, tick, intraday }: { bars: Bars; row: number; tick: number; intraday: boolean }) {
  const change = row > 0 ? (100 * (bars.close[row] - bars.close[row - 1])) / Math.abs(bars.close[row - 1]) : NaN;
  const parts: [string, string][] = [
    ["open", price(bars.open[row], tick)],
    ["high", price(bars.high[row], tick)],
    ["low", price(bars.low[row], tick)],
    ["close", price(bars.close[row], tick)],
    ["change", `${signed(change, 2)} %`],
    ["volume", decimal(bars.volume[row], 0)],
  ];
  return (
    <>
      <span className="figure-text">{intraday ? `${momentText(bars.time[row])} UTC` : momentText(bars.time[row]).slice(0, 10)}</span>
      {parts.map(([name, value]) => (
        <span key={name}>
          {name} <span className="figure-text text-ink">{value}</span>
        </span>
      ))}
    </>
  );
}

function measureText({ from, to }: Measure, bars: Bars, tick: number): string {
  const difference = to.price - from.price;
  const seconds = Math.abs(bars.time[to.row] - bars.time[from.row]) / 1000;
  const days = seconds / 86_400;
  const span = days >= 2 ? `${decimal(days, 0)} days` : duration(seconds);
  return `${signed(difference, Math.max(2, String(tick).split(".")[1]?.length ?? 0))} points, ${signed((100 * difference) / Math.abs(from.price), 2)} %, ${decimal(Math.abs(to.row - from.row), 0)} bars, ${span}`;
}

interface PriceStudyProps {
  market: MarketView;
  source: SourceView;
  timeframe: string;
  state: StudyState;
  /** daily bars of the markets to compare with */
  others: readonly { symbol: string; barsHash: string }[];
}

/** Prices of a market in any timeframe, with formulas over and below them, a crosshair and a measure. */
export function PriceStudy({ market, source, timeframe, state, others }: PriceStudyProps) {
  const showing = showingSource(market, source, timeframe);
  const derived = useDerived(
    showing === null ? null : { bars: showing.barsHash, timeframe: showing.timeframe, session: market.spec.session },
    timeframe,
  );
  const { bars, levels, error } = useBars(derived.bars?.hash ?? null);
  const columns = useStudyFormulas(
    market,
    derived.bars?.hash ?? null,
    timeframe,
    state.formulas.map((formula) => formula.rule),
  );
  const [cross, setCross] = useState<LiveMarks["cross"]>(null);
  const [measure, setMeasure] = useState<Measure | null>(null);
  const [view, setView] = useState<readonly [number, number]>([0, 1]);
  const onWindow = useCallback((from: number, to: number) => setView([from, to]), []);
  const { tick } = market.spec;
  const parsed = parseTimeframe(timeframe);
  const intraday = parsed?.unit === "minute";

  const overlays = useMemo(
    () =>
      state.formulas.flatMap((formula, i): (Overlay & { place: string; yesNo: boolean })[] => {
        const column = columns[i]?.column;
        return column ? [{ label: formula.label, colour: formula.colour, column, place: formula.place, yesNo: columns[i]!.yesNo }] : [];
      }),
    // columns come anew with every render; what they hold follows from these
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [JSON.stringify(state.formulas), derived.bars?.hash, columns.map((column) => column !== null).join()],
  );
  const over = useMemo(() => overlays.filter((overlay) => overlay.place === "over" && !overlay.yesNo), [overlays]);
  const below = overlays.filter((overlay) => overlay.place === "below" || overlay.yesNo);

  const sessionStarts = useMemo(() => {
    if (bars === null || parsed === null || !intraday) return [];
    const dates = sessionDates(bars.time, parsed, new MarketCalendar(market.spec.session));
    const starts: number[] = [];
    for (let i = 0; i < dates.length; i++) if (i === 0 || dates[i] !== dates[i - 1]) starts.push(i);
    return starts;
    // the timeframe as text says all of it
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [bars, timeframe, market.spec.session]);

  const first = useMemo((): [number, number] | undefined => {
    if (bars === null) return undefined;
    const width = Math.min(bars.length, 180);
    if (state.at === null) return [bars.length - width, bars.length + 3];
    const row = firstAtOrAfter(bars.time, Date.parse(state.at));
    return [row - width / 2, row + width / 2];
  }, [bars, state.at]);
  useEffect(() => {
    if (first !== undefined) setView(first);
    setMeasure(null);
  }, [first]);

  const problems = columns.flatMap((column, i) => (column?.problem ? [{ path: state.formulas[i].rule, message: column.problem }] : []));
  const row = bars === null ? 0 : Math.min(bars.length - 1, cross?.row ?? bars.length - 1);
  if (state.compare.length > 0) return <Comparison market={market} others={others} at={state.at} />;
  if (derived.problem !== null || error !== null)
    return <Problems problems={[{ path: "", message: derived.problem ?? error! }]} title="These prices can't be shown" />;
  if (bars === null || first === undefined) return <p className="py-40 text-center text-ink-soft">Loading bars …</p>;
  return (
    <>
      <p className="flex min-h-6 flex-wrap gap-x-4 text-sm text-ink-soft" aria-live="off" data-readout>
        <Readout bars={bars} row={row} tick={tick} intraday={intraday} />
        {overlays.map((overlay) => (
          <span key={overlay.label}>
            {overlay.label}{" "}
            <span className="figure-text text-ink">
              {overlay.yesNo ? (overlay.column[row] === 1 ? "yes" : "no") : decimal(overlay.column[row], 4)}
            </span>
          </span>
        ))}
        {showing !== null && showing.id !== source.id && (
          <span>
            from {showing.name}’s {showing.timeframe} bars
          </span>
        )}
        {derived.bars!.outside > 0 && <span>{decimal(derived.bars!.outside, 0)} bars outside the session left out</span>}
      </p>
      {measure !== null && (
        <p className="text-sm" role="status" data-measure>
          <Key colour="plum">{measureText(measure, bars, tick)}</Key>
        </p>
      )}
      <Problems problems={problems} title="A formula can't be drawn" />
      <PriceChart
        symbol={market.symbol}
        bars={bars}
        levels={levels}
        tick={tick}
        height={below.length > 1 ? 340 : 420}
        view={first}
        overlays={over}
        sessionStarts={sessionStarts}
        onWindow={onWindow}
        onCross={setCross}
        onMeasure={setMeasure}
        legend={over.map((overlay) => (
          <Key key={overlay.label} colour={overlay.colour}>
            {overlay.label}
          </Key>
        ))}
      />
      {below.map((overlay) => (
        <PaneChart key={overlay.label} bars={bars} overlay={overlay} yesNo={overlay.yesNo} view={view} />
      ))}
    </>
  );
}

function Comparison({ market, others, at }: { market: MarketView; others: PriceStudyProps["others"]; at: string | null }) {
  const [held, setHeld] = useState<{ key: string; markets: { symbol: string; held: LoadedBars }[]; problem: string | null } | null>(null);
  const wanted = useMemo(() => [{ symbol: market.symbol, barsHash: market.barsHash }, ...others], [market, others]);
  const key = wanted.map((one) => one.barsHash).join();
  useEffect(() => {
    let current = true;
    Promise.all(wanted.map(async (one) => ({ symbol: one.symbol, held: await loadBars(one.barsHash) }))).then(
      (markets) => current && setHeld({ key, markets, problem: null }),
      (error: Error) => current && setHeld({ key, markets: [], problem: error.message }),
    );
    return () => {
      current = false;
    };
    // the hashes say all of it
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key]);
  if (held === null || held.key !== key) return <p className="py-40 text-center text-ink-soft">Loading bars …</p>;
  if (held.problem !== null) return <Problems problems={[{ path: "", message: held.problem }]} title="These markets can't be compared" />;
  return <CompareChart markets={held.markets} from={at === null ? null : Date.parse(at)} height={440} />;
}
