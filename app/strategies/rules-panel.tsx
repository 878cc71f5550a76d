import { Plus, X } from "lucide-react";
import type { Distance, Side, Strategy } from "#core/documents";
import type { StrategyProblem } from "#core/engine";
import { Button } from "~/design/button";
import { Select } from "~/design/field";
import type { Draft } from "./draft";
import { FigureInput } from "./inputs";
import { RuleEditor } from "./rule-editor";

interface Props {
  draft: Draft;
  problems: readonly StrategyProblem[];
}

type SideName = "long" | "short";
const HINTS: Record<string, string> = {
  "long.enter": "close crosses above sma(close, 50)",
  "long.exit": "close crosses below sma(close, 50)",
  "short.enter": "close crosses below sma(close, 50)",
  "short.exit": "close crosses above sma(close, 50)",
};

/** A strategy without keys that hold nothing. */
const tidy = (side: Side): Side | undefined => (side.enter === undefined && side.exit === undefined ? undefined : side);

function withSide(strategy: Strategy, name: SideName, side: Side | undefined): Strategy {
  const next = { ...strategy, [name]: side && tidy(side) };
  if (next[name] === undefined) delete next[name];
  return next;
}

/** The rules of a strategy as text: Enter, Exit, Size. */
export function RulesPanel({ draft, problems }: Props) {
  const { strategy } = draft;
  const names = [
    ...(strategy.parameters ?? []).map((parameter) => ({ label: parameter.name, detail: `parameter, ${String(parameter.value)}` })),
    ...(strategy.definitions ?? []).map((definition) => ({ label: definition.name, detail: "definition" })),
  ];
  const rule = (side: SideName, part: "enter" | "exit") => (
    <div className="py-1">
      <p className="pb-0.5 text-sm text-ink-soft">{side}, when</p>
      <RuleEditor
        label={`${part === "enter" ? "Enter" : "Exit"} ${side} when`}
        value={strategy[side]?.[part]?.when ?? ""}
        hint={`never; for example ${HINTS[`${side}.${part}`]}`}
        names={names}
        problems={problems.filter((problem) => problem.path === `${side}.${part}.when` && problem.rule).map((problem) => problem.rule!)}
        onChange={(when) =>
          draft.change(`${side} ${part}`, (before) => {
            const own: Side = { ...before[side] };
            if (when.trim() === "") delete own[part];
            else own[part] = { ...own[part], when } as never;
            return withSide(before, side, own);
          })
        }
      />
    </div>
  );
  return (
    <>
      <section aria-label="Enter">
        <h2 className="text-lg">Enter</h2>
        {rule("long", "enter")}
        {rule("short", "enter")}
        <div className="grid grid-cols-2 gap-2 py-1 text-sm text-ink-soft">
          <Select
            label="Entries fill at"
            value={atOf(strategy)}
            choices={AT}
            onChange={(at) => draft.change("at", (before) => withAt(before, at))}
          />
          <Select
            label="An opposite signal"
            value={strategy.onOpposite ?? "reverse"}
            choices={[
              { value: "reverse", label: "reverses" },
              { value: "close", label: "closes" },
              { value: "ignore", label: "is ignored" },
            ]}
            onChange={(value) => draft.change("opposite", (before) => ({ ...before, onOpposite: value as Strategy["onOpposite"] }))}
          />
        </div>
      </section>
      <section aria-label="Exit" className="border-t border-edge pt-2">
        <h2 className="text-lg">Exit</h2>
        {rule("long", "exit")}
        {rule("short", "exit")}
        <Level draft={draft} problems={problems} part="stop" label="Stop loss" />
        <Level draft={draft} problems={problems} part="target" label="Take profit" />
      </section>
      <Size draft={draft} problems={problems} />
      <Definitions draft={draft} problems={problems} names={names} />
    </>
  );
}

const AT = [
  { value: "followingOpen", label: "the following open" },
  { value: "sameClose", label: "the same close" },
];

const atOf = (strategy: Strategy): string => {
  const order = (strategy.long ?? strategy.short)?.enter?.order;
  return order?.type === "market" && order.at === "sameClose" ? "sameClose" : "followingOpen";
};

function withAt(strategy: Strategy, at: string): Strategy {
  const next = { ...strategy };
  for (const name of ["long", "short"] as const) {
    const enter = next[name]?.enter;
    if (enter)
      next[name] = {
        ...next[name],
        enter: at === "sameClose" ? { when: enter.when, order: { type: "market", at: "sameClose" } } : { when: enter.when },
      };
  }
  return next;
}

function Messages({ problems, path }: { problems: readonly StrategyProblem[]; path: string }) {
  return problems
    .filter((problem) => problem.path === path || problem.path.startsWith(`${path}.`))
    .map((problem, i) => (
      <p key={i} role="alert" className="text-sm text-clay">
        {problem.message}
      </p>
    ));
}

const UNITS = [
  { value: "none", label: "none" },
  { value: "percent", label: "percent" },
  { value: "atr", label: "× ATR" },
  { value: "points", label: "points" },
  { value: "ticks", label: "ticks" },
];

function Level({ draft, problems, part, label }: Props & { part: "stop" | "target"; label: string }) {
  const level = draft.strategy.protect?.[part];
  const parameters = (draft.strategy.parameters ?? []).map((parameter) => parameter.name);
  const set = (next: Distance | undefined) =>
    draft.change(part, (before) => {
      const protect = { ...before.protect, [part]: next };
      if (next === undefined) delete protect[part];
      const strategy = { ...before, protect };
      if (Object.keys(protect).length === 0) delete (strategy as Partial<Strategy>).protect;
      return strategy;
    });
  const units = part === "target" ? [...UNITS, { value: "r", label: "× stop distance" }] : UNITS;
  return (
    <div className="py-1">
      <div className="flex items-end gap-2">
        <Select
          label={label}
          value={level?.unit ?? "none"}
          choices={units}
          onChange={(unit) =>
            set(
              unit === "none"
                ? undefined
                : {
                    unit: unit as Distance["unit"],
                    value: level?.value ?? (unit === "percent" ? 5 : 2),
                    ...(unit === "atr" ? { period: level?.period ?? 14 } : {}),
                  },
            )
          }
          className="w-28 shrink-0"
        />
        {level && (
          <FigureInput
            label={`${label}, value`}
            value={level.value}
            parameters={parameters}
            onChange={(value) => set({ ...level, value })}
            className="min-w-0 flex-1"
          />
        )}
        {level?.unit === "atr" && (
          <>
            <span className="pb-1.5 text-sm text-ink-soft">of</span>
            <FigureInput
              label={`${label}, bars of the ATR`}
              value={level.period ?? 14}
              parameters={parameters}
              onChange={(period) => set({ ...level, period })}
              className="w-14 shrink-0"
            />
          </>
        )}
      </div>
      <Messages problems={problems} path={`protect.${part}`} />
    </div>
  );
}

const MODES = [
  { value: "units", label: "units, a fixed number" },
  { value: "equityPercent", label: "% of equity, as notional" },
  { value: "riskPercent", label: "% of equity, lost at the stop" },
  { value: "cash", label: "money, as notional" },
  { value: "atrPercent", label: "% of equity per one ATR" },
];

function Size({ draft, problems }: Props) {
  const { sizing } = draft.strategy;
  const parameters = (draft.strategy.parameters ?? []).map((parameter) => parameter.name);
  const starts: Record<string, number> = { units: 1, equityPercent: 50, riskPercent: 1, cash: 50_000, atrPercent: 0.5 };
  return (
    <section aria-label="Size" className="border-t border-edge pt-2">
      <h2 className="text-lg">Size</h2>
      <div className="flex flex-wrap items-center gap-2 py-1">
        <FigureInput
          label="Size, value"
          value={sizing.value ?? 1}
          parameters={parameters}
          onChange={(value) => draft.change("size", (before) => ({ ...before, sizing: { ...before.sizing, value } }))}
          className="w-28"
        />
        <Select
          hideLabel
          label="Size, measured in"
          value={sizing.mode}
          choices={sizing.mode === "equalShare" ? [...MODES, { value: "equalShare", label: "an equal share" }] : MODES}
          onChange={(mode) =>
            draft.change("mode", (before) => ({ ...before, sizing: { mode: mode as Strategy["sizing"]["mode"], value: starts[mode] } }))
          }
          className="w-60"
        />
      </div>
      <Messages problems={problems} path="sizing" />
    </section>
  );
}

function Definitions({ draft, problems, names }: Props & { names: { label: string; detail: string }[] }) {
  const definitions = draft.strategy.definitions ?? [];
  const set = (touched: string, next: Strategy["definitions"]) =>
    draft.change(touched, (before) => {
      const strategy = { ...before, definitions: next };
      if (next === undefined || next.length === 0) delete strategy.definitions;
      return strategy;
    });
  return (
    <section aria-label="Definitions" className="border-t border-edge pt-2">
      <h2 className="text-lg">Definitions</h2>
      {definitions.length === 0 && <p className="text-sm text-ink-soft">A definition gives a formula a name, so that rules stay short.</p>}
      {definitions.map((definition, i) => (
        <div key={i} className="py-1">
          <div className="mb-0.5 flex items-center gap-2">
            <input
              aria-label={`Name of definition ${i + 1}`}
              value={definition.name}
              onChange={(event) =>
                set(
                  `definition ${i} name`,
                  definitions.map((d, k) => (k === i ? { ...d, name: event.target.value } : d)),
                )
              }
              className="figure-text w-40 rounded-[4px] border border-edge bg-sheet px-1.5 py-0.5"
            />
            <span className="text-sm text-ink-soft">{definition.variants ? `one of ${definition.variants.length} variants` : "is"}</span>
            <button
              type="button"
              onClick={() =>
                set(
                  "definition remove",
                  definitions.filter((_, k) => k !== i),
                )
              }
              className="ml-auto p-1 text-ink-soft hover:text-ink"
              aria-label={`Remove ${definition.name}`}
            >
              <X size={13} aria-hidden />
            </button>
          </div>
          {definition.variants ? (
            <Select
              hideLabel
              label={`Variant of ${definition.name}`}
              value={String(definition.chosen ?? 1)}
              choices={definition.variants.map((variant, k) => ({
                value: String(k + 1),
                label: `${k + 1}  ${variant.label ?? variant.rule}`,
              }))}
              onChange={(chosen) =>
                set(
                  `definition ${i} chosen`,
                  definitions.map((d, k) => (k === i ? { ...d, chosen: Number(chosen) } : d)),
                )
              }
            />
          ) : (
            <RuleEditor
              label={`Formula of ${definition.name}`}
              value={definition.rule ?? ""}
              names={names}
              problems={problems
                .filter((problem) => problem.path === `definitions[${i}].rule` && problem.rule)
                .map((problem) => problem.rule!)}
              onChange={(rule) =>
                set(
                  `definition ${i}`,
                  definitions.map((d, k) => (k === i ? { ...d, rule } : d)),
                )
              }
            />
          )}
          <Messages problems={problems} path={`definitions[${i}].name`} />
        </div>
      ))}
      <Button
        look="quiet"
        small
        className="mt-1"
        onClick={() => set("definition add", [...definitions, { name: `part${definitions.length + 1}`, rule: "close" }])}
      >
        <Plus size={13} aria-hidden /> Definition
      </Button>
    </section>
  );
}
