import type { MarketView } from "#server/markets";
import { Field, Select } from "~/design/field";
import { Panel } from "~/design/panel";
import type { AccountState, BuilderState, Problem } from "./builder-state";

/** The account that all members share. */
export function AccountForm({
  state,
  onChange,
  markets,
  saved,
  problems,
}: {
  state: BuilderState;
  onChange: (next: BuilderState, kind?: string) => void;
  markets: readonly MarketView[];
  saved: boolean;
  problems: readonly Problem[];
}) {
  const { account, members } = state;
  const set = (key: keyof AccountState) => (value: string) =>
    onChange({ ...state, account: { ...account, [key]: value } }, `account ${key}`);
  const typed = (key: keyof AccountState) => ({
    value: account[key],
    onChange: (event: { target: { value: string } }) => set(key)(event.target.value),
    error: problems.find(({ path }) => path === key || path === `settings.${key}`)?.message,
  });
  const traded = [...new Set(members.flatMap((member) => member.markets))];
  const costs = [
    ...(saved ? [{ value: "as saved", label: "as saved" }] : []),
    ...traded.map((symbol) => ({ value: symbol, label: `those of ${symbol}` })),
    { value: "none", label: "none" },
  ];
  const own = costs.some(({ value }) => value === account.costsOf) ? account.costsOf : (costs[0]?.value ?? "none");
  return (
    <Panel title="Account">
      <div className="grid grid-cols-2 gap-2">
        <Field label="Capital" figure inputMode="decimal" {...typed("capital")} />
        <Field label="Leverage" figure inputMode="decimal" {...typed("leverage")} />
        <Field label="From" type="date" {...typed("from")} />
        <Field label="To" type="date" {...typed("to")} />
        <Field label="Halt below, % of capital" figure inputMode="decimal" {...typed("haltBelowPercent")} />
        <Select label="Costs" value={own} choices={costs} onChange={set("costsOf")} />
        <Select
          className="col-span-2"
          label="Held against"
          value={
            traded.includes(account.benchmark) || markets.some(({ symbol }) => symbol === account.benchmark)
              ? account.benchmark
              : (traded[0] ?? "")
          }
          choices={traded.map((symbol) => ({ value: symbol, label: `holding ${symbol}` }))}
          onChange={set("benchmark")}
        />
      </div>
    </Panel>
  );
}
