import { X } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import type { ReactNode } from "react";
import type { Distance, Protect, Strategy } from "#core/documents";
import { WEEKDAYS } from "#core/wording";
import type { Draft } from "./draft";
import { FigureInput } from "./inputs";
import { Messages } from "./messages";
import { RuleField, useRuleForm } from "./rule-field";

type Key = keyof Protect;

/** Every protective exit: what it is called, and what it starts with. */
const EXITS: readonly [key: Key, name: string, start: Protect[Key]][] = [
  ["stop", "Stop loss", { unit: "atr", value: 3, period: 20 }],
  ["target", "Take profit", { unit: "percent", value: 10 }],
  ["trail", "Trailing stop", { unit: "atr", value: 3, period: 20, activateAfter: 0 }],
  ["breakeven", "Stop to break-even", { unit: "percent", trigger: 3, offset: 0 }],
  ["maxBarsHeld", "After a number of bars", 10],
  ["exitAt", "At a time of day", "16:00"],
  ["exitWeekday", "On a weekday", { weekday: 5, time: "16:00" }],
];

const UNITS: readonly [unit: Distance["unit"], label: string][] = [
  ["percent", "% of entry"],
  ["atr", "× ATR"],
  ["points", "points"],
  ["ticks", "ticks"],
  ["r", "× stop distance"],
  ["price", "price by a formula"],
];

const BOX = "rounded-[4px] border border-edge bg-sheet px-1 py-0.5 hover:border-ink-faint";

function withExit(strategy: Strategy, key: Key, value: Protect[Key] | undefined): Strategy {
  const protect: Protect = { ...strategy.protect, [key]: value };
  if (value === undefined) delete protect[key];
  const next: Strategy = { ...strategy, protect };
  if (Object.keys(protect).length === 0) delete next.protect;
  return next;
}

/** Stop, target, trail, break-even and the exits by bars and the clock: those that the strategy has, and a way to add others. */
export function Exits({ draft }: { draft: Draft }) {
  const { problems } = useRuleForm();
  const { protect = {} } = draft.strategy;
  const parameters = (draft.strategy.parameters ?? []).filter((one) => one.kind !== "yesNo").map((one) => one.name);
  const set = (key: Key, value: Protect[Key] | undefined) => draft.change(`protect ${key}`, (before) => withExit(before, key, value));
  const missing = EXITS.filter(([key]) => protect[key] === undefined);
  return (
    <>
      {EXITS.filter(([key]) => protect[key] !== undefined).map(([key, name]) => (
        <div key={key} className="border-t border-edge/60 py-1">
          <div className="flex items-start gap-1">
            <div className="min-w-0 flex-1">
              <Exit name={name} exit={key} protect={protect} parameters={parameters} set={set} />
            </div>
            <button
              type="button"
              onClick={() => set(key, undefined)}
              className="p-1 text-ink-soft hover:text-ink"
              aria-label={`Take out: ${name}`}
            >
              <X size={13} aria-hidden />
            </button>
          </div>
          <Messages problems={problems} path={`protect.${key}`} />
        </div>
      ))}
      {missing.length > 0 && (
        <DropdownMenu.Root>
          <DropdownMenu.Trigger className="mt-1 rounded-[4px] border border-edge px-2 py-0.5 text-sm hover:border-ink-faint">
            + Exit by stop, target, bars or the clock
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="start" className="z-50 min-w-52 rounded-[4px] border border-edge bg-sheet p-1 text-ink shadow-lg">
              {missing.map(([key, name, start]) => (
                <DropdownMenu.Item
                  key={key}
                  onSelect={() => set(key, start)}
                  className="cursor-pointer rounded-[3px] px-2.5 py-1 outline-none data-[highlighted]:bg-shade"
                >
                  {name}
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      )}
    </>
  );
}

interface ExitProps {
  name: string;
  exit: Key;
  protect: Protect;
  parameters: readonly string[];
  set: (key: Key, value: Protect[Key] | undefined) => void;
}

function Exit({ name, exit, protect, parameters, set }: ExitProps) {
  const figure = (label: string, value: number | string, onChange: (value: number | string) => void) => (
    <FigureInput label={`${name}, ${label}`} value={value} parameters={parameters} onChange={onChange} className="w-20" />
  );
  const units = (unit: Distance["unit"], able: readonly Distance["unit"][], onChange: (unit: Distance["unit"]) => void) => (
    <select
      aria-label={`${name}, measured in`}
      value={unit}
      onChange={(event) => onChange(event.target.value as Distance["unit"])}
      className={BOX}
    >
      {UNITS.filter(([value]) => able.includes(value)).map(([value, label]) => (
        <option key={value} value={value}>
          {label}
        </option>
      ))}
    </select>
  );
  const line = (children: ReactNode) => (
    <div className="flex flex-wrap items-center gap-x-1.5 gap-y-1">
      <span className="mr-1">{name}</span>
      {children}
    </div>
  );
  const note = (text: string) => <span className="text-sm text-ink-soft">{text}</span>;
  const ofBars = (unit: Distance["unit"], period: number | string | undefined, onChange: (value: number | string) => void) =>
    unit === "atr" && (
      <>
        {note("of")}
        <FigureInput label={`${name}, bars of the ATR`} value={period ?? 14} parameters={parameters} onChange={onChange} className="w-14" />
        {note("bars")}
      </>
    );
  switch (exit) {
    case "stop":
    case "target": {
      const given = protect[exit]!;
      const able = exit === "stop" ? UNITS.map(([unit]) => unit).filter((unit) => unit !== "r") : UNITS.map(([unit]) => unit);
      const change = (unit: Distance["unit"]) => {
        if (unit === given.unit) return;
        if (unit === "price") return set(exit, { unit, value: exit === "stop" ? "lowest(low, 20)" : "highest(high, 50)" });
        const value = given.unit === "price" ? (unit === "percent" ? 5 : 2) : given.value;
        set(exit, { unit, value, ...(unit === "atr" ? { period: given.period ?? 14 } : {}) });
      };
      return (
        <>
          {line(
            <>
              {given.unit !== "price" && figure("value", given.value, (value) => set(exit, { ...given, value }))}
              {units(given.unit, able, change)}
              {ofBars(given.unit, given.period, (period) => set(exit, { ...given, period }))}
            </>,
          )}
          {given.unit === "price" && (
            <div className="mt-1">
              <RuleField
                kind="value"
                label={`${name}, price`}
                path={`protect.${exit}.value`}
                value={String(given.value)}
                onChange={(value) => set(exit, { ...given, value })}
              />
              {exit === "stop" && (
                <label className="mt-1 flex items-center gap-2 text-sm text-ink-soft">
                  <input
                    type="checkbox"
                    checked={given.follow ?? false}
                    onChange={(event) =>
                      set(exit, { unit: "price", value: given.value, ...(event.target.checked ? { follow: true } : {}) })
                    }
                  />
                  look at it again at every close; it only comes closer
                </label>
              )}
            </div>
          )}
        </>
      );
    }
    case "trail": {
      const given = protect.trail!;
      return line(
        <>
          {figure("distance", given.value, (value) => set("trail", { ...given, value }))}
          {units(given.unit, ["percent", "atr", "points", "ticks", "r"], (unit) => set("trail", { ...given, unit }))}
          {ofBars(given.unit, given.period, (period) => set("trail", { ...given, period }))}
          {note("from the best price, once")}
          {figure("ahead before it starts", given.activateAfter ?? 0, (activateAfter) => set("trail", { ...given, activateAfter }))}
          {note("ahead")}
        </>,
      );
    }
    case "breakeven": {
      const given = protect.breakeven!;
      return line(
        <>
          {note("once")}
          {figure("ahead", given.trigger, (trigger) => set("breakeven", { ...given, trigger }))}
          {units(given.unit, ["percent", "atr", "points", "ticks", "r"], (unit) => set("breakeven", { ...given, unit }))}
          {ofBars(given.unit, given.period, (period) => set("breakeven", { ...given, period }))}
          {note("ahead, to the entry plus")}
          {figure("beyond the entry", given.offset ?? 0, (offset) => set("breakeven", { ...given, offset }))}
        </>,
      );
    }
    case "maxBarsHeld":
      return line(figure("bars", protect.maxBarsHeld!, (value) => set("maxBarsHeld", value)));
    case "exitAt":
      return line(
        <input
          type="time"
          aria-label={`${name}, time`}
          value={protect.exitAt}
          onChange={(event) => event.target.value !== "" && set("exitAt", event.target.value)}
          className={`figure-text ${BOX}`}
        />,
      );
    case "exitWeekday": {
      const given = protect.exitWeekday!;
      return line(
        <>
          <select
            aria-label={`${name}, day`}
            value={given.weekday}
            onChange={(event) => set("exitWeekday", { ...given, weekday: Number(event.target.value) })}
            className={BOX}
          >
            {WEEKDAYS.map((day, i) => (
              <option key={day} value={i + 1}>
                {day}
              </option>
            ))}
          </select>
          <input
            type="time"
            aria-label={`${name}, time`}
            value={given.time}
            onChange={(event) => event.target.value !== "" && set("exitWeekday", { ...given, time: event.target.value })}
            className={`figure-text ${BOX}`}
          />
        </>,
      );
    }
  }
}
