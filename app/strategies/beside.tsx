import { useEffect, useMemo, useState } from "react";
import { Link } from "react-router";
import type { Metrics, Settings, Strategy } from "#core/documents";
import type { MarketView } from "#server/markets";
import { useAddress } from "~/design/use-address";
import { Button } from "~/design/button";
import { decimal, metricText } from "~/design/format";
import { Panel } from "~/design/panel";
import { besideRows } from "~/run-settings/beside-rows";
import type { Under } from "~/run-settings/under";
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

/** One strategy under several run settings side by side: how much of the result is the assumption. */
export function Beside({ strategy, live, settings, all, markets, onCount }: Props) {
  const { params, set: write } = useAddress();
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
  const set = (value: string | null) => write("beside", value);
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
