import type { Strategy } from "#core/documents";
import { Select } from "~/design/field";
import { Definitions } from "./definitions";
import type { Draft } from "./draft";
import { Exits } from "./exits";
import { SideRule } from "./sides";
import { Size } from "./size";

const OPPOSITE = [
  { value: "reverse", label: "closes it and opens the other" },
  { value: "close", label: "only closes it" },
  { value: "ignore", label: "is ignored" },
];

/** The rules of a strategy, as sentences or as text: Enter, Exit, Size, and what they are made of. */
export function RulesPanel({ draft }: { draft: Draft }) {
  const { strategy } = draft;
  return (
    <>
      <section aria-label="Enter">
        <h2 className="text-lg">Enter</h2>
        <SideRule draft={draft} side="long" part="enter" />
        <SideRule draft={draft} side="short" part="enter" />
        {strategy.long?.enter && strategy.short?.enter && (
          <Select
            label="With a position open, a signal of the other side"
            value={strategy.onOpposite ?? "reverse"}
            choices={OPPOSITE}
            onChange={(value) => draft.change("opposite", (before) => ({ ...before, onOpposite: value as Strategy["onOpposite"] }))}
            className="py-1"
          />
        )}
      </section>
      <section aria-label="Exit" className="border-t border-edge pt-2">
        <h2 className="text-lg">Exit</h2>
        <SideRule draft={draft} side="long" part="exit" />
        <SideRule draft={draft} side="short" part="exit" />
        <Exits draft={draft} />
      </section>
      <Size draft={draft} />
      <Definitions draft={draft} />
    </>
  );
}
