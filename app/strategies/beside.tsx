import { useEffect, useMemo, useState } from "react";
import { Link, useSearchParams } from "react-router";
import type { Metrics, Settings, Strategy } from "#core/documents";
import { applySaved, settingFacts } from "#core/settings";
import type { MarketView } from "#server/markets";
import { Button } from "~/design/button";
import { dateText, decimal, metricText } from "~/design/format";
import { Panel } from "~/design/panel";
import type { Under } from "~/run-settings/under";
import { knowMarket } from "~/runs/use-run-settings";
import type { LiveBacktest } from "~/runs/use-backtest";
import { FiguresTable } from "./figures-table";

interface Props {
  strategy: Strategy;
  live: LiveBacktest;
  settings: Settings | null;
  all: readonly Under[];
  markets: readonly MarketView[];
  onCount: (tries: readonly { strategy: Strategy; settings: Settings }[]) => void;
}

/** One row: run settings that others make of those in force; null with the reason where they can't be had. */
export interface BesideRow {
  key: string;
  name: string;
  about: string;
  settings: Settings | null;
  why: string | null;
}

/** Bars of another source than those in force have, as a note: which, and since when. */
function otherBars(settings: Settings, inForce: Settings, markets: readonly MarketView[]): string | null {
  const other = settings.markets.find((market) => inForce.markets.some((one) => one.symbol === market.symbol && one.bars !== market.bars));
  const source = markets.find((market) => market.symbol === other?.symbol)?.sources.find((one) => one.barsHash === other?.bars);
  return source === undefined ? null : `${source.timeframe} bars of ${source.name}, from ${dateText(source.firstTime)}`;
}

/** Ready-made ones that change little in most runs, left out until they are asked for. */
const SELDOM = new Set(["ready.market-costs", "ready.by-the-tick"]);

/**
 * The rows of the table: the settings in force first, then the chosen ones laid over them. Without a choice: all that can
 * be had and say something else.
 */
export function besideRows(
  settings: Settings,
  timeframe: string,
  all: readonly Under[],
  chosen: readonly string[] | null,
  markets: readonly MarketView[],
): BesideRow[] {
  const know = knowMarket(markets);
  const inForce = JSON.stringify(settings);
  const rows = all
    .filter((under) => (chosen === null ? !SELDOM.has(under.key) : chosen.includes(under.key)))
    .flatMap((under): BesideRow[] => {
      const { settings: applied, problems } = applySaved(under.saved, settings, timeframe, know);
      const about = settingFacts(under.saved)
        .map(({ what, says }) => `${what}: ${says}`)
        .join("; ");
      const why = problems[0]?.message ?? null;
      const bars = applied === null ? null : otherBars(applied, settings, markets);
      const row = { key: under.key, name: bars === null ? under.name : `${under.name}: ${bars}`, about, settings: applied, why };
      // other bars change the result by themselves: the same bars without their say show how much
      return bars === null || applied === null
        ? [row]
        : [
            row,
            {
              ...row,
              key: `${under.key} bars`,
              name: `as set, made of the same ${bars}`,
              settings: { ...settings, markets: applied.markets },
            },
          ];
    })
    .filter((row) => chosen !== null || (row.settings !== null && JSON.stringify(row.settings) !== inForce));
  return [{ key: "as set", name: "as set", about: "", settings, why: null }, ...rows];
}

/** One strategy under several run settings side by side: how much of the result is the assumption. */
export function Beside({ strategy, live, settings, all, markets, onCount }: Props) {
  const [params, setParams] = useSearchParams();
  const beside = params.get("beside");
  const open = beside !== null;
  const [choosing, setChoosing] = useState(false);
  const [held, setHeld] = useState<{ of: string; metrics: (Metrics | null)[] } | null>(null);
  const chosen = useMemo(() => (beside === null || beside === "" ? null : beside.split(",")), [beside]);
  const rows = useMemo(
    () => (settings === null || !open ? [] : besideRows(settings, strategy.timeframe, all, chosen, markets)),
    [settings, strategy.timeframe, all, chosen, markets, open],
  );
  const of = live.current && rows.length > 0 ? `${live.of} ${rows.map((row) => row.key).join()}` : null;
  const { ask } = live;
  const set = (value: string | null) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        if (value === null) next.delete("beside");
        else next.set("beside", value);
        return next;
      },
      { replace: true, preventScrollReset: true },
    );
  useEffect(() => {
    if (of === null) return;
    let over = false;
    const able = rows.flatMap((row) => (row.settings === null ? [] : [row.settings]));
    void ask({ what: "settings", symbol: "", list: able }).then((answer) => {
      if (over || answer.what !== "settings") return;
      let at = 0;
      setHeld({ of, metrics: rows.map((row) => (row.settings === null ? null : answer.metrics[at++])) });
      onCount(able.map((one) => ({ strategy, settings: one })));
    });
    return () => {
      over = true;
    };
    // the run in force and the chosen rows say when it must be asked anew
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [of]);
  if (settings === null) return null;
  if (!open)
    return (
      <p className="mt-3 text-right text-sm">
        <Button look="quiet" small onClick={() => set("")}>
          Under other run settings
        </Button>
      </p>
    );
  const current = held !== null && held.of === of ? held.metrics : null;
  const shown = new Set(rows.map((row) => row.key));
  const toggle = (key: string, on: boolean) =>
    set([...all.map((one) => one.key).filter((one) => (one === key ? on : shown.has(one)))].join(",") || "none");
  return (
    <Panel
      className="mt-3"
      flush
      title="Under other run settings"
      note="how much of the result is the assumption"
      aside={
        <>
          <button type="button" className="quiet-link" aria-expanded={choosing} onClick={() => setChoosing(!choosing)}>
            choose…
          </button>
          {" · "}
          <button type="button" className="quiet-link" onClick={() => set(null)}>
            close
          </button>
        </>
      }
    >
      {choosing && (
        <fieldset className="grid grid-cols-3 gap-x-3 px-3.5 pb-2 text-sm" aria-label="Run settings to set beside">
          {all.map((one) => (
            <label key={one.key} className="flex items-center gap-2">
              <input type="checkbox" checked={shown.has(one.key)} onChange={(event) => toggle(one.key, event.target.checked)} />
              {one.name}
            </label>
          ))}
          <Link className="quiet-link" to="/run-settings">
            Run settings…
          </Link>
        </fieldset>
      )}
      <FiguresTable
        label="The strategy under other run settings"
        tall
        first="run settings"
        more="undecided bars"
        rows={rows.map(({ key, name, about, why }, i) => ({
          key,
          name: (
            <span title={why ?? about}>
              {name}
              {why !== null && <span className="text-ink-soft">: {why}</span>}
            </span>
          ),
          chosen: i === 0,
          metrics: why !== null ? null : current === null ? undefined : current[i],
          more: current?.[i] ? decimal(current[i].ambiguousBars, 0) : undefined,
        }))}
      />
      {current !== null && <Spread metrics={current.filter((_, i) => comparable(rows[i].settings, settings))} />}
    </Panel>
  );
}

/** Whether results differ by assumptions alone: the same bars, dates and capital. */
function comparable(one: Settings | null, other: Settings): boolean {
  const of = ({ markets, from, to, capital }: Settings) => JSON.stringify([markets.map(({ bars }) => bars), from, to, capital]);
  return one !== null && of(one) === of(other);
}

/** How far apart the results lie: what nobody can know, and what the costs decide. */
function Spread({ metrics }: { metrics: readonly (Metrics | null)[] }) {
  const nets = metrics.flatMap((one) => (one === null || one.netProfit === null ? [] : [one.netProfit]));
  if (nets.length < 2) return null;
  const [least, most] = [Math.min(...nets), Math.max(...nets)];
  return (
    <p className="border-t border-edge/60 px-3.5 py-1.5 text-sm text-ink-soft">
      On the same bars, dates and capital the net lies between{" "}
      <span className="figure-text text-ink">{metricText("netProfit", least)}</span> and{" "}
      <span className="figure-text text-ink">{metricText("netProfit", most)}</span>
      {least < 0 && most > 0 ? ": whether there is a profit at all rests on the assumption." : "."}
    </p>
  );
}
