import { useMemo } from "react";
import { firstAtOrAfter, type Bars, type DatedSeries } from "#core/bars";
import type { RunEvent, Settings, Trade, TradeLevels } from "#core/documents";
import { median } from "#core/metrics";
import { Key } from "~/charts/chart";
import { PaneChart } from "~/charts/pane-chart";
import type { Overlay } from "~/charts/price-bars";
import { PriceChart } from "~/charts/price-chart";
import { FORMULA_COLOURS } from "~/markets/study-state";
import { useBars } from "~/markets/use-bars";
import { useDerived } from "~/markets/use-derived";
import { useFormulas } from "~/markets/use-formulas";
import { Problems } from "~/design/panel";
import { spansOf, viewAround } from "./spans";
import { useState } from "react";

interface Props {
  settings: Settings;
  /** what is shown, not what the strategy runs on */
  timeframe: string;
  trades: readonly Trade[];
  levels: TradeLevels | null;
  /** the trade or the event that is looked at */
  trade: number | null;
  event: RunEvent | null;
  /** formulas that the rules look at, drawn over the prices or below */
  formulas: readonly string[];
  height?: number;
}

/** As many of the rules' columns are drawn. */
export const MOST_COLUMNS = 4;
const NO_LEVELS: { stop: number | null; target: number | null }[] = [];

/** Trades of a run on the prices of the market that one of them (or an event) belongs to, in any timeframe. */
export function TradePrices({ settings, timeframe, trades, levels, trade, event, formulas, height = 300 }: Props) {
  const symbol = event?.symbol ?? trades.find(({ id }) => id === trade)?.symbol;
  const market = settings.markets.find((one) => one.symbol === symbol) ?? settings.markets[0];
  const session = market.session ?? null;
  const derived = useDerived({ bars: market.bars, timeframe: market.timeframe, session }, timeframe);
  const hash = derived.bars?.hash ?? null;
  const { bars, levels: detail, error } = useBars(hash);
  const columns = useFormulas({ session, series: (market.series ?? {}) as Record<string, DatedSeries> }, hash, timeframe, formulas);
  const [view, setView] = useState<readonly [number, number] | null>(null);
  const own = useMemo(() => {
    const picked = trades.filter((one) => one.symbol === market.symbol);
    const level = (x: number) => (Number.isNaN(x) ? null : x);
    const shown =
      levels === null ? NO_LEVELS : picked.map(({ id }) => ({ stop: level(levels.stop[id - 1]), target: level(levels.target[id - 1]) }));
    return { picked, shown };
  }, [trades, levels, market.symbol]);
  const spans = useMemo(() => (bars === null ? [] : spansOf(own.picked, bars, own.shown)), [own, bars]);
  const eventRow = event === null || bars === null ? null : firstAtOrAfter(bars.time, Date.parse(event.time));
  const first = useMemo((): [number, number] | undefined => {
    if (bars === null) return undefined;
    if (eventRow !== null) return [eventRow - 60, eventRow + 60];
    return trade === null
      ? undefined
      : viewAround(
          spans.find((span) => span.id === trade),
          bars,
        );
  }, [trade, spans, bars, eventRow]);
  const tints = useMemo(() => (eventRow === null ? [] : [{ fromRow: eventRow, toRow: eventRow, name: "", mark: true }]), [eventRow]);
  const drawn = columns.map((column) => column !== null).join();
  const { over, below } = useMemo(() => {
    const overlays = formulas.flatMap((label, i) => {
      const column = columns[i]?.column;
      if (!column || columns[i]!.yesNo) return [];
      return [
        {
          overlay: { label, colour: FORMULA_COLOURS[i % FORMULA_COLOURS.length], column },
          over: bars !== null && amongPrices(bars, column),
        },
      ];
    });
    const part = (wanted: boolean): Overlay[] => overlays.filter((one) => one.over === wanted).map(({ overlay }) => overlay);
    return { over: part(true), below: part(false) };
    // columns come anew with every render; what they hold follows from these
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [formulas.join("\n"), hash, drawn, bars]);
  const problem = derived.problem ?? error;
  if (problem !== null)
    return (
      <Problems problems={[{ path: "", message: `${market.symbol} in ${timeframe}: ${problem}` }]} title="These prices can't be shown" />
    );
  if (bars === null)
    return (
      <p className="grid place-items-center text-ink-soft" style={{ height }}>
        Loading bars …
      </p>
    );
  const faults = columns.flatMap((column, i) => (column?.problem ? [{ path: formulas[i], message: column.problem }] : []));
  return (
    <>
      <PriceChart
        symbol={market.symbol}
        bars={bars}
        levels={detail}
        tick={market.tick}
        trades={spans}
        selected={event === null ? trade : null}
        tints={tints}
        view={first}
        overlays={over}
        onWindow={(from, to) => setView([from, to])}
        height={height - 60 * Math.min(2, below.length)}
        legend={over.map((overlay) => (
          <Key key={overlay.label} colour={overlay.colour}>
            {overlay.label}
          </Key>
        ))}
      />
      {below.map((overlay) => (
        <PaneChart
          key={overlay.label}
          bars={bars}
          overlay={overlay}
          yesNo={false}
          view={view ?? first ?? [bars.length - 180, bars.length + 3]}
        />
      ))}
      <Problems problems={faults} title="A column of the rules can't be drawn in this timeframe" />
    </>
  );
}

/** Whether a column lies where the prices do, so that it can be drawn over them. */
function amongPrices(bars: Bars, column: Float64Array): boolean {
  const known = column.filter((x) => !Number.isNaN(x));
  if (known.length === 0) return false;
  const middle = median(known.length > 5000 ? known.filter((_, i) => i % Math.ceil(known.length / 5000) === 0) : known);
  let low = Infinity;
  let high = -Infinity;
  for (let i = 0; i < bars.length; i++) {
    if (bars.low[i] < low) low = bars.low[i];
    if (bars.high[i] > high) high = bars.high[i];
  }
  return middle >= low && middle <= high;
}
