import { Command } from "cmdk";
import { Popover } from "radix-ui";
import { useState, type ReactNode } from "react";
import { formatRule, FUNCTIONS, parseRule, POSITION, SERIES, type PositionName, type Syntax } from "#core/rules";
import { FUNCTION_PHRASES, SERIES_PHRASES } from "#core/wording";
import type { Names } from "./names";

const at = { from: 0, to: 0 };
const phrase = (text: string): string => text.replace(/\{x\}/g, "a series").replace(/\{(\w+)\}/g, "$1");

/** A tree of a text that is known to be right. */
export const treeOfText = (text: string): Syntax => parseRule(text).tree ?? { ...at, type: "name", name: text };

interface PickProps {
  label: string;
  children: ReactNode;
  names: Names;
  kind: "number" | "yesno";
  current: Syntax | null;
  onPick: (node: Syntax) => void;
  className?: string;
}

/** A part of a sentence that another can take the place of: a series, a function, a parameter, a definition, or typed text. */
export function Pick({ label, children, names, kind, current, onPick, className = "" }: PickProps) {
  const [open, setOpen] = useState(false);
  const [word, setWord] = useState("");
  // a bare word is looked for, not taken for a name
  const typed = /^\s*(?:[A-Za-z]\w*)?\s*$/.test(word) ? null : parseRule(word).tree;
  const choose = (node: Syntax) => {
    setOpen(false);
    setWord("");
    onPick(node);
  };
  const item = (key: string, title: string, detail: string, node: () => Syntax, more = "") => (
    <Command.Item
      key={key}
      value={`${title} ${key}`}
      keywords={[more]}
      onSelect={() => choose(node())}
      className="flex cursor-pointer items-baseline gap-3 rounded-[3px] px-2 py-1 data-[selected=true]:bg-shade"
    >
      <span>{title}</span>
      <span className="figure-text ml-auto truncate text-xs text-ink-soft">{detail}</span>
    </Command.Item>
  );
  const positions = [...POSITION].filter(([, one]) => one.kind === kind);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        aria-label={label}
        className={`border-b border-dotted border-ink-soft text-left hover:border-ink hover:bg-shade focus-visible:bg-shade ${className}`}
      >
        {children}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={4}
          align="start"
          className="z-50 w-[430px] overflow-hidden rounded-[6px] border border-edge bg-sheet text-ink shadow-xl"
        >
          <Command label={label}>
            <Command.Input
              value={word}
              onValueChange={setWord}
              placeholder={current === null ? "find, or type it in the notation" : `instead of ${formatRule(current)}`}
              className="w-full border-b border-edge bg-sheet px-3 py-2 outline-none placeholder:text-ink-soft"
            />
            <Command.List className="max-h-72 overflow-auto p-1.5 [&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:pt-1.5 [&_[cmdk-group-heading]]:text-xs [&_[cmdk-group-heading]]:text-ink-soft">
              {typed !== null && (
                <Command.Group heading="As typed" forceMount>
                  <Command.Item
                    forceMount
                    value={`typed ${word}`}
                    onSelect={() => choose(typed)}
                    className="figure-text cursor-pointer rounded-[3px] px-2 py-1 data-[selected=true]:bg-shade"
                  >
                    {word}
                  </Command.Item>
                </Command.Group>
              )}
              <Command.Empty className="px-2 py-3 text-ink-soft">
                Nothing is called that, and it can't be read as a formula yet.
              </Command.Empty>
              {kind === "number" && names.parameters.length > 0 && (
                <Command.Group heading="Parameters">
                  {names.parameters.map((name) => item(name, name, "parameter", () => treeOfText(name)))}
                </Command.Group>
              )}
              {names.definitions.some((one) => one.kind === kind) && (
                <Command.Group heading="Definitions of this strategy">
                  {names.definitions
                    .filter((one) => one.kind === kind)
                    .map((one) => item(one.name, one.name, one.rule, () => treeOfText(one.name)))}
                </Command.Group>
              )}
              {kind === "yesno" && (
                <>
                  <Command.Group heading="Compare">
                    {item("compare", "one value is above another", "close > open", () => treeOfText("close > sma(close, 50)"))}
                    {item("cross", "one value crosses another", "crosses above", () => treeOfText("close crosses above sma(close, 50)"))}
                    {item("between", "a value lies between two", "from … to …", () => treeOfText("rsi(14) from 30 to 70"))}
                    {item("move", "a value rises", "is rising", () => treeOfText("sma(close, 50) is rising"))}
                  </Command.Group>
                  <Command.Group heading="Ready-made and your own">
                    {names.library.map((one) =>
                      item(one.name, one.title, one.rule, () => treeOfText(one.rule), `${one.kind} ${one.about}`),
                    )}
                  </Command.Group>
                </>
              )}
              {positions.length > 0 && (
                <Command.Group heading="Position">
                  {positions.map(([name]) =>
                    item(name, SERIES_PHRASES[name], name, () => treeOfText(name), POSITION.get(name as PositionName)!.definition),
                  )}
                </Command.Group>
              )}
              {kind === "number" && (
                <>
                  <Command.Group heading="Series">
                    {[...SERIES].map(([name, { definition }]) =>
                      item(name, SERIES_PHRASES[name] ?? name, name, () => treeOfText(name), definition),
                    )}
                  </Command.Group>
                  <Command.Group heading="Functions">
                    {[...FUNCTIONS.values()].map((entry) =>
                      item(
                        entry.name,
                        phrase(FUNCTION_PHRASES[entry.name]),
                        entry.name,
                        () => treeOfText(startOf(entry.name, entry.example, current)),
                        entry.definition,
                      ),
                    )}
                  </Command.Group>
                </>
              )}
            </Command.List>
          </Command>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** What a function starts with in a sentence: its example, but on the arguments of the call that it takes the place of, where they fit. */
function startOf(name: string, example: string, current: Syntax | null): string {
  const entry = FUNCTIONS.get(name)!;
  const call = current?.type === "part" ? current.x : current;
  if (call?.type === "call") {
    const before = FUNCTIONS.get(call.name);
    if (before !== undefined && before.inputs.length === entry.inputs.length && before.settings.length === entry.settings.length) {
      const same = `${name}(${call.args.map(formatRule).join(", ")})`;
      return entry.parts !== undefined && entry.defaultPart === undefined ? `${same}.${entry.parts[0]}` : same;
    }
  }
  return example.replace("exp(x)", "exp(close)");
}
