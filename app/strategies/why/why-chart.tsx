import { useMemo, useState } from "react";
import { firstAtOrAfter, type Bars } from "#core/bars";
import type { Strategy } from "#core/documents";
import type { RuleConditions } from "#core/runs";
import { settingNames } from "#core/wording";
import type { TradeSpan } from "~/charts/price-bars";
import { PriceChart } from "~/charts/price-chart";
import { dateText, momentText, price } from "~/design/format";
import { Panel } from "~/design/panel";
import { ConditionStrips } from "./strips";

interface WhyChartProps {
  strategy: Strategy;
  symbol: string;
  tick: number;
  daily: boolean;
  bars: Bars;
  spans: readonly TradeSpan[];
  rule: RuleConditions | null;
  /** the chosen condition's number, the whole rule's one past the last, or −1 */
  tint: number;
  time: number | null;
  onTime: (time: number) => void;
}

/** Prices with trades, the bar in question, and each condition's strip below. A click asks about a bar. */
export function WhyChart({ strategy, symbol, tick, daily, bars, spans, rule, tint, time, onTime }: WhyChartProps) {
  const row = time === null ? null : firstAtOrAfter(bars.time, time);
  // the view moves with the bar only where the bar would leave it
  const [anchor, setAnchor] = useState<number | null>(row);
  if (row !== null && (anchor === null || Math.abs(row - anchor) > 62)) setAnchor(row);
  const view = useMemo<[number, number]>(() => {
    const centre = anchor ?? bars.length - 70;
    return [centre - 75, centre + 75];
  }, [anchor, bars.length]);
  const [window, setWindow] = useState<[number, number]>(view);
  const [cross, setCross] = useState<number | null>(null);
  const settings = settingNames(strategy);
  const tints = useMemo(() => {
    const out: { fromRow: number; toRow: number; name: string; mark?: boolean }[] = [];
    if (rule !== null && tint >= 0) {
      const whole = tint >= rule.texts.length || (rule.texts.length === 1 && tint === 0);
      for (let i = 0; i < bars.length; i++) {
        const holds = whole ? rule.columns.every((column) => column[i] === 1) : rule.columns[tint][i] === 1;
        if (!holds) continue;
        const before = out.at(-1);
        if (before !== undefined && before.toRow === i - 1) before.toRow = i;
        else out.push({ fromRow: i, toRow: i, name: "" });
      }
    }
    if (row !== null) out.push({ fromRow: row, toRow: row, name: "", mark: true });
    return out;
  }, [rule, tint, row, bars.length]);
  const shown = cross ?? row;
  return (
    <Panel
      title={`${symbol}, prices and rules`}
      note={
        shown !== null && shown < bars.length ? (
          <span className="figure-text">
            {daily ? dateText(bars.time[shown]) : momentText(bars.time[shown])} O {price(bars.open[shown], tick)} H{" "}
            {price(bars.high[shown], tick)} L {price(bars.low[shown], tick)} C {price(bars.close[shown], tick)}
          </span>
        ) : undefined
      }
    >
      <div
        onClick={() => {
          if (cross !== null) onTime(bars.time[cross]);
        }}
      >
        <PriceChart
          symbol={symbol}
          bars={bars}
          tick={tick}
          trades={spans}
          tints={tints}
          view={view}
          height={360}
          onWindow={(from, to) => setWindow([from, to])}
          onCross={(at) => setCross(at === null ? null : at.row)}
        />
      </div>
      {rule !== null && <ConditionStrips rule={rule} settings={settings} from={window[0]} to={window[1]} selected={row} />}
    </Panel>
  );
}
