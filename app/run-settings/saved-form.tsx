import type { ReactNode } from "react";
import type { DocumentProblem } from "#core/documents";
import type { MarketView } from "#server/markets";
import { Button } from "~/design/button";
import { Field, Select, type Choice } from "~/design/field";
import { Panel } from "~/design/panel";
import { MarketSelect } from "~/markets/market-select";
import { COST_KEYS, symbolsOf } from "~/runs/settings-state";
import type { SavedState } from "./form-state";

interface Props {
  state: SavedState;
  onChange: (state: SavedState) => void;
  problems: readonly DocumentProblem[];
  markets: readonly MarketView[];
}

const AT_HAND: Choice = { value: "hand", label: "as at hand" };
const FIGURES: readonly [key: (typeof COST_KEYS)[number], label: string][] = [
  ["perUnit", "Fee per unit"],
  ["perOrder", "Fee per order"],
  ["percent", "Fee, % of value"],
  ["minimum", "Least per fill"],
  ["spreadTicks", "Spread, ticks"],
  ["slippageTicks", "Slippage, ticks"],
  ["financingLongPercent", "Financing long, % a year"],
  ["financingShortPercent", "Financing short, % a year"],
];

/** All that run settings can fix. What stays as at hand is taken from where they are used. */
export function SavedForm({ state, onChange, problems, markets }: Props) {
  const set = (part: Partial<SavedState>) => onChange({ ...state, ...part });
  const error = (path: string) => problems.find((problem) => problem.path === path)?.message;
  const field = (
    key: "name" | "from" | "to" | "capital" | "leverage" | "marketLimit" | "haltBelowPercent" | "times",
    label: string,
    more = {},
  ) => <Field label={label} value={state[key]} onChange={(event) => set({ [key]: event.target.value })} error={error(key)} {...more} />;
  const select = (
    key: "dates" | "limit" | "onLackOfMargin" | "costs" | "intrabar" | "fineTimeframe" | "roundToTick" | "closeAtEnd",
    label: string,
    choices: Choice[],
    className = "",
  ) => (
    <Select
      className={className}
      label={label}
      value={state[key]}
      onChange={(value) => set({ [key]: value })}
      choices={[AT_HAND, ...choices]}
    />
  );
  const figure = { figure: true, inputMode: "decimal", placeholder: "as at hand" } as const;
  const symbols = symbolsOf(state.markets);
  const first = markets.find((market) => market.symbol === symbols[0]);
  return (
    <div className="flex flex-col gap-3">
      <Panel>{field("name", "Name", { placeholder: "for example: Twice the costs, from 2010" })}</Panel>
      <Group title="On what">
        <div className="col-span-2">
          <MarketSelect
            label="Markets"
            value=""
            placeholder={symbols.length === 0 ? "as at hand; choose one to fix them" : "add another"}
            choices={markets
              .filter((market) => !symbols.includes(market.symbol))
              .map((market) => ({ value: market.symbol, label: `${market.symbol}, ${market.name}` }))}
            onChange={(symbol) => set({ markets: [...symbols, symbol].join(",") })}
          />
          {error("markets") && <p className="text-xs text-clay">{error("markets")}</p>}
        </div>
        <div className="col-span-2 flex flex-wrap items-center gap-1.5 pb-1">
          {symbols.map((symbol) => (
            <Button
              key={symbol}
              look="quiet"
              small
              aria-label={`take out ${symbol}`}
              onClick={() => set({ markets: symbols.filter((one) => one !== symbol).join(",") })}
            >
              <span className="figure-text">{symbol}</span> ✕
            </Button>
          ))}
        </div>
        {select("dates", "Dates", [
          { value: "all", label: "all there are" },
          { value: "own", label: "from … to" },
        ])}
        {state.dates === "own" && (
          <>
            {field("from", "From", { type: "date" })}
            {field("to", "To", { type: "date" })}
          </>
        )}
      </Group>
      <Group title="The account">
        {field("capital", "Capital", figure)}
        {field("leverage", "Leverage", figure)}
        {field("haltBelowPercent", "Halt below, % of capital", { ...figure, className: "col-span-2" })}
        {select(
          "onLackOfMargin",
          "Without enough margin, an entry",
          [
            { value: "reduce", label: "is cut to what fits" },
            { value: "skip", label: "is skipped" },
          ],
          "col-span-2",
        )}
        {select("limit", "Markets at once", [
          { value: "none", label: "no limit" },
          { value: "own", label: "at most …" },
        ])}
        {state.limit === "own" && field("marketLimit", "At most", { figure: true, inputMode: "numeric" })}
      </Group>
      <Group title="What trading costs">
        {select(
          "costs",
          "Costs",
          [
            { value: "none", label: "none" },
            { value: "times", label: "those at hand, times …" },
            { value: "market", label: "the market's own, times …" },
            { value: "figures", label: "these figures" },
          ],
          "col-span-2",
        )}
        {(state.costs === "times" || state.costs === "market") && field("times", "Times", { figure: true, inputMode: "decimal" })}
        {state.costs === "figures" && (
          <>
            <Select
              label="Filled in from a market"
              value={first?.symbol ?? ""}
              placeholder="choose one"
              className="col-span-2"
              choices={markets.map((market) => ({ value: market.symbol, label: `${market.symbol}, ${market.name}` }))}
              onChange={(symbol) => {
                const market = markets.find((one) => one.symbol === symbol)!;
                set({ figures: Object.fromEntries(COST_KEYS.map((key) => [key, String(market.costs[key])])) as SavedState["figures"] });
              }}
            />
            {FIGURES.map(([key, label]) => (
              <Field
                key={key}
                label={label}
                value={state.figures[key]}
                figure
                inputMode="decimal"
                error={error(key)}
                onChange={(event) => set({ figures: { ...state.figures, [key]: event.target.value } })}
              />
            ))}
          </>
        )}
      </Group>
      <Group title="What happens inside a bar">
        {select("intrabar", "Stop and target in one bar", [
          { value: "pessimistic", label: "the stop came first" },
          { value: "optimistic", label: "the target came first" },
          { value: "path", label: "by the path of the bar" },
        ])}
        {select("fineTimeframe", "Decided by finer bars", [
          { value: "none", label: "no" },
          { value: "finest", label: "the finest there are" },
          ...["1m", "5m", "15m", "1h", "1d"].map((value) => ({ value, label: `${value} bars` })),
        ])}
        {select("roundToTick", "Prices of fills", [
          { value: "no", label: "as computed" },
          { value: "yes", label: "rounded to the tick, against you" },
        ])}
        {select("closeAtEnd", "At the end", [
          { value: "no", label: "leave open trades open" },
          { value: "yes", label: "close open trades" },
        ])}
      </Group>
    </div>
  );
}

const Group = ({ title, children }: { title: string; children: ReactNode }) => (
  <Panel title={title}>
    <div className="grid grid-cols-4 items-end gap-x-3 gap-y-2">{children}</div>
  </Panel>
);
