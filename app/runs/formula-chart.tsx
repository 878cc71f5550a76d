import { useMemo } from "react";
import { firstAtOrAfter, type DatedSeries } from "#core/bars";
import type { Settings } from "#core/documents";
import { LinesChart, type Line } from "~/charts/lines-chart";
import { decimal } from "~/design/format";
import { Panel, Problems } from "~/design/panel";
import { useBars } from "~/markets/use-bars";
import { useDerived } from "~/markets/use-derived";
import { useFormulas } from "~/markets/use-formulas";

interface Props {
  settings: Settings;
  symbol: string;
  timeframe: string;
  rule: string;
  /** first and last moment of the run */
  span: readonly [number, number];
  fileName: string;
  onRemove: () => void;
}

const tick = (x: number): string => decimal(x, Math.abs(x) >= 1000 ? 0 : Math.abs(x) >= 10 ? 1 : 3);

/** A formula in the rule notation on one of the run's markets, over the run's time. */
export function FormulaChart({ settings, symbol, timeframe, rule, span, fileName, onRemove }: Props) {
  const market = settings.markets.find((one) => one.symbol === symbol)!;
  const session = market.session ?? null;
  const derived = useDerived({ bars: market.bars, timeframe: market.timeframe, session }, timeframe);
  const hash = derived.bars?.hash ?? null;
  const { bars, error } = useBars(hash);
  const [column] = useFormulas({ session, series: (market.series ?? {}) as Record<string, DatedSeries> }, hash, timeframe, [rule]);
  const lines = useMemo<Line[] | null>(() => {
    if (bars === null || !column?.column) return null;
    const from = firstAtOrAfter(bars.time, span[0]);
    const to = firstAtOrAfter(bars.time, span[1] + 1);
    return [{ name: rule, time: bars.time.subarray(from, to), value: column.column.subarray(from, to) }];
  }, [bars, column, rule, span]);
  const problem = derived.problem ?? error ?? column?.problem ?? null;
  return (
    <Panel
      title={<span className="figure-text">{rule}</span>}
      note={`on ${symbol}, ${timeframe} bars`}
      aside={
        <button type="button" className="quiet-link" onClick={onRemove}>
          take out
        </button>
      }
    >
      {problem !== null ? (
        <Problems problems={[{ path: rule, message: problem }]} title="This formula can't be drawn" />
      ) : lines === null ? (
        <p className="py-16 text-center text-ink-soft">Computing …</p>
      ) : (
        <LinesChart label={rule} lines={lines} height={180} fileName={fileName} tick={tick} />
      )}
    </Panel>
  );
}
