import type { Order, Side, Strategy } from "#core/documents";
import type { Draft } from "./draft";
import { FigureInput } from "./inputs";
import { Messages } from "./messages";
import { RuleField, useRuleForm } from "./rule-field";

export type SideName = "long" | "short";

const HINTS = {
  "long.enter": "close crosses above sma(close, 50)",
  "long.exit": "close crosses below sma(close, 50)",
  "short.enter": "close crosses below sma(close, 50)",
  "short.exit": "close crosses above sma(close, 50)",
};

function withSide(strategy: Strategy, name: SideName, side: Side): Strategy {
  const next = { ...strategy, [name]: side };
  if (side.enter === undefined && side.exit === undefined) delete next[name];
  return next;
}

const LIST = "rounded-[4px] border border-edge bg-sheet px-1.5 py-0.5 text-base hover:border-ink-faint";

/** A side's rule to enter or to leave, with how its order fills. */
export function SideRule({ draft, side, part }: { draft: Draft; side: SideName; part: "enter" | "exit" }) {
  const { problems } = useRuleForm();
  const own = draft.strategy[side]?.[part];
  const path = `${side}.${part}`;
  const setRule = (when: string) =>
    draft.change(`${side} ${part}`, (before) => {
      const next: Side = { ...before[side] };
      if (when.trim() === "") delete next[part];
      else next[part] = { ...next[part], when } as never;
      return withSide(before, side, next);
    });
  const setMore = (more: object) =>
    draft.change(`${side} ${part} order`, (before) => {
      const held = before[side]?.[part];
      return held === undefined ? before : withSide(before, side, { ...before[side], [part]: { ...held, ...more } });
    });
  return (
    <div className="py-1">
      <p className="pb-0.5 text-sm text-ink-soft">{side}, when</p>
      <RuleField
        label={`${part === "enter" ? "Enter" : "Exit"} ${side} when`}
        path={`${path}.when`}
        value={own?.when ?? ""}
        hint={`never; for example ${HINTS[`${side}.${part}`]}`}
        onChange={setRule}
      />
      {own !== undefined &&
        (part === "enter" ? (
          <EntryOrder side={side} order={draft.strategy[side]!.enter!.order} onChange={(order) => setMore({ order })} />
        ) : (
          <label className="mt-1 flex items-center gap-2 text-sm text-ink-soft">
            leaves at
            <select
              aria-label={`Exit ${side} fills at`}
              value={draft.strategy[side]!.exit!.at ?? "followingOpen"}
              onChange={(event) => setMore({ at: event.target.value })}
              className={LIST}
            >
              <option value="followingOpen">the following open</option>
              <option value="sameClose">the same close</option>
            </select>
          </label>
        ))}
      <Messages problems={problems} path={path} />
    </div>
  );
}

const KINDS = [
  ["followingOpen", "at the following open"],
  ["sameClose", "at the same close"],
  ["stop", "with a stop order"],
  ["limit", "with a limit order"],
] as const;

interface EntryOrderProps {
  side: SideName;
  order: Order | undefined;
  onChange: (order: Order) => void;
}

function EntryOrder({ side, order = { type: "market" }, onChange }: EntryOrderProps) {
  const kind = order.type === "market" ? (order.at ?? "followingOpen") : order.type;
  const start = (type: "stop" | "limit") => {
    const up = (side === "long") === (type === "stop");
    return up ? "highest(high, 20)" : type === "stop" ? "lowest(low, 20)" : side === "long" ? "low" : "high";
  };
  const choose = (next: string) => {
    if (next === "followingOpen" || next === "sameClose") return onChange({ type: "market", at: next });
    const type = next as "stop" | "limit";
    const price = order.type === "market" ? start(type) : (order.price ?? start(type));
    const workingBars = order.type === "market" ? 3 : (order.workingBars ?? 1);
    onChange(type === "limit" ? { type, price, workingBars, through: true } : { type, price, workingBars });
  };
  return (
    <div className="mt-1">
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1 text-sm text-ink-soft">
        {side === "long" ? "buys" : "sells short"}
        <select aria-label={`Enter ${side} with`} value={kind} onChange={(event) => choose(event.target.value)} className={LIST}>
          {KINDS.map(([value, label]) => (
            <option key={value} value={value}>
              {label}
            </option>
          ))}
        </select>
        {order.type !== "market" && (
          <>
            for
            <FigureInput
              label={`${side}: bars that the order works`}
              value={order.workingBars ?? 1}
              parameters={[]}
              onChange={(value) =>
                typeof value === "number" && Number.isInteger(value) && value > 0 && onChange({ ...order, workingBars: value })
              }
              className="w-12"
            />
            bars, at
          </>
        )}
      </div>
      {order.type !== "market" && (
        <div className="mt-1">
          <RuleField
            kind="value"
            label={`${side}: price of the ${order.type} order`}
            path={`${side}.enter.order.price`}
            value={order.price ?? ""}
            hint={start(order.type)}
            onChange={(price) => onChange({ ...order, price })}
          />
          {order.type === "limit" && (
            <label className="mt-1 flex items-center gap-2 text-sm text-ink-soft">
              <input
                type="checkbox"
                checked={order.through ?? true}
                onChange={(event) => onChange({ ...order, through: event.target.checked })}
              />
              fills only where the price goes beyond it
            </label>
          )}
        </div>
      )}
    </div>
  );
}
