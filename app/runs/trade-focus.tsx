import { useMemo } from "react";
import type { Settings, Trade } from "#core/documents";
import { compareTimeframes, parseTimeframe, resampleFault } from "#core/bars";
import { useAddress } from "~/design/use-address";
import { Select } from "~/design/field";
import { Panel } from "~/design/panel";
import { QUICK_TIMEFRAMES } from "~/markets/price-study";
import { EVENTS } from "./event-list";
import { MOST_COLUMNS, TradePrices } from "./trade-prices";
import { useRunPart } from "./use-part";

interface Props {
  run: { id: number; fingerprint: string; settings: Settings };
  trades: readonly Trade[];
  /** the strategy's own */
  timeframe: string;
  /** what its rules look at */
  formulas: readonly string[];
  height?: number;
  onClose?: () => void;
}

/** The trade or event that the address names, on prices: in any timeframe, with the columns that the rules look at. */
export function TradeFocus({ run, trades, timeframe, formulas, height, onClose }: Props) {
  const { params, set } = useAddress();
  const { settings } = run;
  const levels = useRunPart(run, "levels");
  const events = useRunPart(run, "events");
  const trade = params.has("trade") ? Number(params.get("trade")) : null;
  const event = params.has("event") ? (events.value?.[Number(params.get("event"))] ?? null) : null;
  const symbol = event?.symbol ?? trades.find((one) => one.id === trade)?.symbol ?? settings.markets[0].symbol;
  const market = settings.markets.find((one) => one.symbol === symbol) ?? settings.markets[0];
  const choices = useMemo(() => {
    const own = parseTimeframe(market.timeframe)!;
    const able = [...new Set([...QUICK_TIMEFRAMES, timeframe])].filter((one) => resampleFault(own, parseTimeframe(one)!) === null);
    return able.sort((a, b) => compareTimeframes(parseTimeframe(a)!, parseTimeframe(b)!));
  }, [market.timeframe, timeframe]);
  const shown = choices.includes(params.get("tf") ?? "") ? params.get("tf")! : timeframe;
  const columns = params.get("columns") === "no" ? [] : formulas.slice(0, MOST_COLUMNS);
  const chosen = trades.find((one) => one.id === trade);
  return (
    <Panel
      title={
        event !== null
          ? `${EVENTS[event.kind].name} on ${symbol}, ${event.time.slice(0, 16).replace("T", " ")}`
          : trade === null
            ? `${symbol}, all trades`
            : `Trade ${trade} on prices`
      }
      note={
        event?.detail ?? (chosen === undefined ? undefined : `${symbol}, ${chosen.side}; left by ${chosen.exitReason ?? "nothing yet"}`)
      }
      aside={
        <span className="flex items-center gap-3">
          {formulas.length > 0 && (
            <button
              type="button"
              className={columns.length > 0 ? "font-semibold text-ink" : "quiet-link"}
              aria-pressed={columns.length > 0}
              onClick={() => set("columns", columns.length > 0 ? "no" : null)}
            >
              what the rules look at
            </button>
          )}
          <Select
            label="Bars of"
            hideLabel
            className="w-24"
            value={shown}
            choices={choices.map((value) => ({ value, label: value }))}
            onChange={(value) => set("tf", value === timeframe ? null : value)}
          />
          {onClose && (
            <button type="button" className="quiet-link" onClick={onClose}>
              close
            </button>
          )}
        </span>
      }
    >
      <TradePrices
        settings={settings}
        timeframe={shown}
        trades={trades}
        levels={levels.value ?? null}
        trade={trade}
        event={event}
        formulas={columns}
        height={height}
      />
    </Panel>
  );
}
