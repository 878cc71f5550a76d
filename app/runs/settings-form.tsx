import type { DocumentProblem } from "#core/documents";
import type { MarketView } from "#server/markets";
import { dateText } from "~/design/format";
import { Field, Select } from "~/design/field";
import { MarketSelect } from "~/markets/market-select";
import { FurtherMarkets } from "./further-markets";
import type { SettingsState } from "./settings-state";

interface Props {
  state: SettingsState;
  markets: readonly MarketView[];
  problems: readonly DocumentProblem[];
  onChange: (state: SettingsState) => void;
  /** the market's own costs where it changes */
  onMarket: (symbol: string) => void;
}

/** Market, dates, capital and costs of a backtest; every change takes effect at once. */
export function SettingsForm({ state, markets, problems, onChange, onMarket }: Props) {
  const set = (key: keyof SettingsState) => (value: string) => onChange({ ...state, [key]: value });
  const error = (key: string) => problems.find((problem) => problem.path === key)?.message;
  const market = markets.find((m) => m.symbol === state.market);
  const field = (
    key: keyof SettingsState,
    label: string,
    more: { type?: string; figure?: boolean; min?: string; max?: string; className?: string } = {},
  ) => (
    <Field
      label={label}
      value={state[key]}
      onChange={(event) => set(key)(event.target.value)}
      error={error(key)}
      figure={more.figure ?? true}
      inputMode={more.type === "date" ? undefined : "decimal"}
      {...more}
    />
  );
  const range = market ? { min: dateText(market.firstTime), max: dateText(market.lastTime) } : {};
  const choices = markets.map((m) => ({ value: m.symbol, label: m.symbol }));
  if (market === undefined && state.market !== "") choices.unshift({ value: state.market, label: `${state.market} (deleted)` });
  return (
    <div className="grid grid-cols-6 items-end gap-x-3 gap-y-2">
      <MarketSelect className="col-span-2" label="Market" value={state.market} choices={choices} onChange={onMarket} />
      {field("from", "From", { type: "date", figure: false, className: "col-span-2", ...range })}
      {field("to", "To", { type: "date", figure: false, className: "col-span-2", ...range })}
      {field("capital", `Capital, ${market?.currency ?? "money"}`, { className: "col-span-2" })}
      {field("spreadTicks", "Spread, ticks")}
      {field("slippageTicks", "Slippage, ticks")}
      {field("perUnit", "Fee per unit")}
      {field("perOrder", "Fee per order")}
      <details className="col-span-6">
        <summary className="text-sm text-ink-soft hover:text-ink">
          More: further markets, financing, margin, what happens inside a bar
        </summary>
        <div className="mt-2 grid grid-cols-6 items-end gap-x-3 gap-y-2">
          {field("percent", "Fee, % of value")}
          {field("minimum", "Least per fill")}
          {field("financingLongPercent", "Long, % a year")}
          {field("financingShortPercent", "Short, % a year")}
          {field("leverage", "Leverage")}
          <Select
            className="col-span-3"
            label="Without enough margin, an entry"
            value={state.onLackOfMargin}
            onChange={set("onLackOfMargin")}
            choices={[
              { value: "reduce", label: "is cut to what fits" },
              { value: "skip", label: "is skipped" },
            ]}
          />
          {field("haltBelowPercent", "Halt below, % of capital", { className: "col-span-3" })}
          <FurtherMarkets className="col-span-4" state={state} markets={markets} onChange={onChange} error={error("others")} />
          {field("marketLimit", "Markets at once, at most", { className: "col-span-2" })}
          <Select
            className="col-span-3"
            label="Stop and target in one bar"
            value={state.intrabar}
            onChange={set("intrabar")}
            choices={[
              { value: "pessimistic", label: "the stop came first" },
              { value: "optimistic", label: "the target came first" },
              { value: "path", label: "by the path of the bar" },
            ]}
          />
          <Select
            className="col-span-3"
            label="Decided by finer bars"
            value={state.fineTimeframe === "" ? "none" : state.fineTimeframe}
            onChange={(fine) => set("fineTimeframe")(fine === "none" ? "" : fine)}
            choices={["none", "1m", "5m", "15m", "1h", "1d"].map((value) => ({ value, label: value === "none" ? "no" : `${value} bars` }))}
          />
          <Select
            className="col-span-3"
            label="Prices of fills"
            value={state.roundToTick}
            onChange={set("roundToTick")}
            choices={[
              { value: "no", label: "as computed" },
              { value: "yes", label: "rounded to the tick, against you" },
            ]}
          />
          <Select
            className="col-span-3"
            label="At the end"
            value={state.closeAtEnd}
            onChange={set("closeAtEnd")}
            choices={[
              { value: "no", label: "leave open trades open" },
              { value: "yes", label: "close open trades" },
            ]}
          />
        </div>
      </details>
    </div>
  );
}
