import { useEffect, useState } from "react";
import { compareTimeframes, formatTimeframe, parseTimeframe } from "#core/bars";
import { NO_COSTS, type Costs, type Metrics, type Settings, type Strategy } from "#core/documents";
import { Button } from "~/design/button";
import { decimal } from "~/design/format";
import { Panel } from "~/design/panel";
import type { LiveBacktest } from "~/runs/use-backtest";
import { FiguresTable } from "./figures-table";

interface Assumption {
  name: string;
  settings: Settings;
}

/** Run settings that a sceptic asks for beside those at hand: other costs, and other answers to what happened inside a bar. */
export function assumptionsFor(settings: Settings, strategy: Strategy): Assumption[] {
  const doubled = Object.fromEntries(
    Object.entries(settings.costs).map(([key, value]) => [key, key.startsWith("financing") ? value : value * 2]),
  ) as unknown as Costs;
  const list: Assumption[] = [
    { name: "as set", settings },
    { name: "no costs", settings: { ...settings, costs: NO_COSTS } },
    { name: "double costs", settings: { ...settings, costs: doubled } },
    ...(["pessimistic", "optimistic", "path"] as const)
      .filter((intrabar) => intrabar !== settings.intrabar || settings.fineTimeframe !== null)
      .map((intrabar) => ({ name: intrabar, settings: { ...settings, intrabar, fineTimeframe: null } })),
  ];
  const own = parseTimeframe(strategy.timeframe);
  const finest = settings.markets
    .map((market) => parseTimeframe(market.timeframe)!)
    .sort(compareTimeframes)
    .at(-1)!;
  if (own !== null && settings.fineTimeframe === null && compareTimeframes(finest, own) < 0) {
    const fine = formatTimeframe(finest);
    list.push({ name: `${fine} bars decide`, settings: { ...settings, fineTimeframe: fine } });
  }
  return list;
}

interface Props {
  strategy: Strategy;
  live: LiveBacktest;
  settings: Settings | null;
  onCount: (tries: readonly { strategy: Strategy; settings: Settings }[]) => void;
}

/** One strategy under several run settings side by side: how much of the result is the assumption. */
export function Assumptions({ strategy, live, settings, onCount }: Props) {
  const [open, setOpen] = useState(false);
  const [held, setHeld] = useState<{ of: string | null; metrics: (Metrics | null)[] } | null>(null);
  const of = live.current ? live.of : null;
  const list = settings === null ? [] : assumptionsFor(settings, strategy);
  const { ask } = live;
  useEffect(() => {
    if (!open || of === null || list.length === 0) return;
    let over = false;
    void ask({ what: "settings", symbol: "", list: list.map((one) => one.settings) }).then((answer) => {
      if (over || answer.what !== "settings") return;
      setHeld({ of, metrics: answer.metrics });
      onCount(list.map((one) => ({ strategy, settings: one.settings })));
    });
    return () => {
      over = true;
    };
    // the run at hand says when it must be asked anew
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [open, of]);
  if (settings === null) return null;
  if (!open)
    return (
      <p className="mt-3 text-right text-sm">
        <Button look="quiet" small onClick={() => setOpen(true)}>
          Under other costs and fills
        </Button>
      </p>
    );
  const current = held !== null && held.of === of ? held.metrics : null;
  return (
    <Panel
      className="mt-3"
      flush
      title="Under other costs and fills"
      note="how much of the result is the assumption"
      aside={
        <button type="button" className="quiet-link" onClick={() => setOpen(false)}>
          close
        </button>
      }
    >
      <FiguresTable
        label="The strategy under other costs and fills"
        first="assumption"
        more="undecided bars"
        rows={list.map(({ name }, i) => ({
          key: name,
          name,
          chosen: i === 0,
          metrics: current === null ? undefined : current[i],
          more: current?.[i] ? decimal(current[i].ambiguousBars, 0) : undefined,
        }))}
      />
    </Panel>
  );
}
