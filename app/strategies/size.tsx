import type { Strategy } from "#core/documents";
import { Select } from "~/design/field";
import type { Draft } from "./draft";
import { FigureInput } from "./inputs";
import { Messages } from "./messages";
import { RuleField, useRuleForm } from "./rule-field";

const MODES = [
  { value: "units", label: "units, a fixed number" },
  { value: "equityPercent", label: "% of equity, as notional" },
  { value: "riskPercent", label: "% of equity, lost at the stop" },
  { value: "cash", label: "money, as notional" },
  { value: "atrPercent", label: "% of equity per one ATR" },
  { value: "equalShare", label: "an equal share of the room" },
];
const STARTS: Record<string, number | undefined> = { units: 1, equityPercent: 50, riskPercent: 1, cash: 50_000, atrPercent: 0.5 };

/** How large an entry is, how many there may be, and who goes first where there is not room for all. */
export function Size({ draft }: { draft: Draft }) {
  const { problems } = useRuleForm();
  const { strategy } = draft;
  const { sizing } = strategy;
  const parameters = (strategy.parameters ?? []).filter((one) => one.kind !== "yesNo").map((one) => one.name);
  const set = (touched: string, next: Partial<Strategy["sizing"]>) =>
    draft.change(touched, (before) => ({ ...before, sizing: { ...before.sizing, ...next } }));
  const mode = (chosen: string) =>
    draft.change("mode", (before) => {
      const next: Strategy["sizing"] = { mode: chosen as Strategy["sizing"]["mode"] };
      if (STARTS[chosen] !== undefined) next.value = STARTS[chosen];
      if (chosen === "atrPercent") next.period = 14;
      if (before.sizing.base !== undefined && chosen.endsWith("Percent")) next.base = before.sizing.base;
      return { ...before, sizing: next };
    });
  const percent = sizing.mode.endsWith("Percent") || sizing.mode === "equalShare";
  return (
    <section aria-label="Size" className="border-t border-edge pt-2">
      <h2 className="text-lg">Size</h2>
      <div className="flex flex-wrap items-center gap-2 py-1">
        {sizing.mode !== "equalShare" && (
          <FigureInput
            label="Size, value"
            value={sizing.value ?? 1}
            parameters={parameters}
            onChange={(value) => set("size", { value })}
            className="w-20"
          />
        )}
        <Select hideLabel label="Size, measured in" value={sizing.mode} choices={MODES} onChange={mode} className="w-60" />
        {sizing.mode === "atrPercent" && (
          <label className="flex items-center gap-1.5 text-sm text-ink-soft">
            ATR of
            <FigureInput
              label="Size, bars of the ATR"
              value={sizing.period ?? 14}
              parameters={parameters}
              onChange={(period) => set("size period", { period })}
              className="w-14"
            />
            bars
          </label>
        )}
        {percent && (
          <label className="flex items-center gap-1.5 text-sm text-ink-soft">
            of
            <select
              aria-label="Size, of which money"
              value={sizing.base ?? "equity"}
              onChange={(event) => set("size base", { base: event.target.value as "equity" | "initial" })}
              className="rounded-[4px] border border-edge bg-sheet px-1 py-0.5 text-ink hover:border-ink-faint"
            >
              <option value="equity">the equity, growing with it</option>
              <option value="initial">the starting capital</option>
            </select>
          </label>
        )}
      </div>
      <Messages problems={problems} path="sizing" />
      <label className="flex items-center gap-2 py-1 text-sm text-ink-soft">
        Entries of one side open at once
        <FigureInput
          label="Entries of one side open at once"
          value={strategy.entriesAtOnce ?? 1}
          parameters={[]}
          onChange={(value) =>
            typeof value === "number" &&
            Number.isInteger(value) &&
            value > 0 &&
            draft.change("entries", (before) => ({ ...before, entriesAtOnce: value }))
          }
          className="w-14"
        />
      </label>
      {strategy.priority === undefined ? (
        <button
          type="button"
          onClick={() => draft.change("priority", (before) => ({ ...before, priority: "roc(close, 60)" }))}
          className="rounded-[4px] border border-edge px-2 py-0.5 text-sm hover:border-ink-faint"
        >
          + Rank markets where there is not room for all
        </button>
      ) : (
        <div className="py-1">
          <div className="flex items-center justify-between text-sm text-ink-soft">
            Where there is not room for all, the highest first:
            <button
              type="button"
              onClick={() =>
                draft.change("priority", (before) => {
                  const next = { ...before };
                  delete next.priority;
                  return next;
                })
              }
              className="quiet-link"
            >
              take out
            </button>
          </div>
          <RuleField
            kind="value"
            label="Priority"
            path="priority"
            value={strategy.priority}
            onChange={(priority) => draft.change("priority", (before) => ({ ...before, priority }))}
          />
        </div>
      )}
    </section>
  );
}
