import { useEffect, useMemo, useState } from "react";
import { useSearchParams } from "react-router";
import { firstAtOrAfter, parseTimeframe } from "#core/bars";
import type { Strategy } from "#core/documents";
import { RULE_NAMES, type RuleName } from "#core/runs";
import type { MarketView } from "#server/markets";
import { Panel } from "~/design/panel";
import { useRunBars } from "~/markets/use-run-bars";
import { spansOf } from "~/runs/spans";
import type { LiveBacktest } from "~/runs/use-backtest";
import { isTyping } from "~/shell/keys";
import { useBarWhy, useConditions } from "./use-why";
import { WhyChart } from "./why-chart";
import { WhyPanel } from "./why-panel";

interface WhyHereProps {
  strategy: Strategy;
  live: LiveBacktest;
  market: MarketView;
  time: number | null;
  onTime: (time: number) => void;
  onClose: () => void;
}

/** Prices on one side, every rule taken apart at the bar in question on the other. */
export function WhyHere({ strategy, live, market, time, onTime, onClose }: WhyHereProps) {
  const [params, setParams] = useSearchParams();
  const [tint, setTint] = useState(-1);
  const bars = useRunBars(market, strategy.timeframe);
  const daily = parseTimeframe(strategy.timeframe)?.unit !== "minute";
  const { data, problem } = useConditions(live, market.symbol, true);
  const { bar, problem: barProblem } = useBarWhy(live, market.symbol, time);
  const trades = useMemo(() => (live.view?.trades ?? []).filter((trade) => trade.symbol === market.symbol), [live.view, market.symbol]);
  const levels = useMemo(
    () => (live.view === null ? [] : live.view.levels.filter((_, i) => live.view!.trades[i].symbol === market.symbol)),
    [live.view, market.symbol],
  );
  const spans = useMemo(() => (bars === null ? [] : spansOf(trades, bars, levels)), [trades, bars, levels]);
  const asked = params.get("rule");
  const rule = (RULE_NAMES as readonly string[]).includes(asked ?? "") ? (asked as RuleName) : (data?.rules[0]?.rule ?? "enter long");
  const conditions = data?.rules.find((one) => one.rule === rule) ?? data?.rules[0] ?? null;
  const setRule = (next: RuleName) =>
    setParams(
      (before) => {
        const changed = new URLSearchParams(before);
        changed.set("rule", next);
        return changed;
      },
      { replace: true, preventScrollReset: true },
    );

  useEffect(() => {
    if (bars === null) return;
    const listen = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return;
      const row = time === null ? bars.length - 1 : firstAtOrAfter(bars.time, time);
      const go = (next: number) => {
        event.preventDefault();
        // the chart's own arrows would pan it
        event.stopPropagation();
        if (next >= 0 && next < bars.length) onTime(bars.time[next]);
      };
      const entry = (trade: { entryTime: string }) => firstAtOrAfter(bars.time, Date.parse(trade.entryTime)) - 1;
      if (event.key === "ArrowLeft") go(row - 1);
      else if (event.key === "ArrowRight") go(row + 1);
      else if (event.key === "ArrowDown") go(trades.map(entry).find((at) => at > row) ?? row);
      else if (event.key === "ArrowUp") go(trades.map(entry).findLast((at) => at < row) ?? row);
      else if (event.key.toLowerCase() === "n") go(conditions?.nearMisses.find((miss) => miss.row > row)?.row ?? row);
      else if (event.key.toLowerCase() === "e" && conditions !== null) setTint((now) => (now >= conditions.texts.length ? -1 : now + 1));
    };
    document.addEventListener("keydown", listen, true);
    return () => document.removeEventListener("keydown", listen, true);
  }, [bars, time, trades, conditions, onTime]);

  return (
    <div className="grid grid-cols-[minmax(330px,370px)_1fr] items-start gap-3">
      <WhyPanel
        strategy={strategy}
        symbol={market.symbol}
        daily={daily}
        data={data}
        bar={bar}
        problem={problem ?? barProblem}
        rule={rule}
        onRule={setRule}
        tint={tint}
        onTint={setTint}
        onTime={onTime}
        onClose={onClose}
      />
      <div className="min-w-0">
        {bars === null ? (
          <Panel title={`${market.symbol}, prices and rules`}>
            <p className="py-24 text-center text-ink-soft">The bars are being fetched.</p>
          </Panel>
        ) : (
          <WhyChart
            strategy={strategy}
            symbol={market.symbol}
            tick={market.spec.tick}
            daily={daily}
            bars={bars}
            spans={spans}
            rule={conditions}
            tint={tint}
            time={time}
            onTime={onTime}
          />
        )}
      </div>
    </div>
  );
}
