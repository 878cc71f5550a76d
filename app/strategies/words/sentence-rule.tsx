import {
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
  type DragEndEvent,
} from "@dnd-kit/core";
import { DropdownMenu } from "radix-ui";
import { EllipsisVertical, GripVertical, Plus } from "lucide-react";
import type { ReactNode } from "react";
import { changedAt, edited, insertedAt, itemAt, moved, rootOutline, textOf, type Outline, type OutlinePath } from "#core/editing";
import { formatRule, parseRule, type RuleProblem, type Syntax } from "#core/rules";
import type { Names } from "./names";
import { Phrase } from "./phrase";
import { Pick } from "./pick";

interface SentenceRuleProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  names: Names;
  problems: readonly RuleProblem[];
  /** what stands there while there is no rule */
  never: string;
  onText: () => void;
}

/** A rule as sentences: conditions and groups, each with its handles. The same tree as the text. */
export function SentenceRule({ label, value, onChange, names, problems, never, onText }: SentenceRuleProps) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }), useSensor(KeyboardSensor));
  const empty = value.replace(/#[^\n]*/g, "").trim() === "";
  const tree = empty ? null : parseRule(value).tree;
  if (!empty && tree === null)
    return (
      <p className="text-sm text-ink-soft">
        This rule can't be read yet, so it has no words.{" "}
        <button type="button" className="quiet-link" onClick={onText}>
          Go on in the text
        </button>
      </p>
    );
  const root = rootOutline(tree);
  const write = (next: Outline) => onChange(textOf(next, value));
  const replace = (target: Syntax, by: Syntax) => onChange(edited(value, tree!, target, by));
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (over === null) return;
    const [from, to] = [active.id, over.id].map((id) => String(id).split(".").slice(1).map(Number));
    const next = moved(root, from, to);
    if (next !== root) write(next);
  };
  const [first] = problems;
  return (
    <DndContext sensors={sensors} onDragEnd={onDragEnd}>
      <div aria-label={label} role="group">
        {root.items.length === 0 ? (
          <p className="text-ink-soft">{never}</p>
        ) : (
          <Group root={root} path={[]} group={root} names={names} write={write} replace={replace} />
        )}
        <Pick
          label={`${label}: add a condition`}
          names={names}
          kind="yesno"
          current={null}
          onPick={(node) => write(insertedAt(root, [root.items.length], { kind: "condition", node, off: false }))}
          className="mt-0.5 inline-flex items-center gap-1 border-b-0 text-sm text-ink-soft"
        >
          <Plus size={12} aria-hidden /> condition
        </Pick>
        {first && (
          <p role="alert" className="text-sm text-clay">
            {first.message}
          </p>
        )}
      </div>
    </DndContext>
  );
}

interface PartProps {
  root: Outline;
  path: OutlinePath;
  names: Names;
  write: (next: Outline) => void;
  replace: (target: Syntax, by: Syntax) => void;
}

function Group({ root, path, group, names, write, replace }: PartProps & { group: Outline & { kind: "group" } }) {
  const join = (
    <select
      aria-label="all or any"
      value={group.join}
      onChange={(event) => write(changedAt(root, path, (item) => ({ ...item, join: event.target.value }) as Outline))}
      className="border-b border-dotted border-ink-soft bg-sheet hover:border-ink"
    >
      <option value="all">all</option>
      <option value="any">any</option>
    </select>
  );
  return (
    <div className={group.off ? "opacity-50" : ""}>
      {group.items.length > 1 && (
        <p className="text-sm text-ink-soft">
          {join} of these {group.join === "all" ? "hold" : "may hold"}:
        </p>
      )}
      <ul>
        {group.items.map((item, i) => (
          <Item key={i} root={root} path={[...path, i]} item={item} names={names} write={write} replace={replace} />
        ))}
        <Gap path={[...path, group.items.length]} />
      </ul>
    </div>
  );
}

/** A place to drop something at: before the item of its path. */
function Gap({ path }: { path: OutlinePath }) {
  const { setNodeRef, isOver } = useDroppable({ id: `to.${path.join(".")}` });
  return <li ref={setNodeRef} aria-hidden className={`h-1 rounded ${isOver ? "bg-river" : ""}`} />;
}

function Item({ root, path, item, names, write, replace }: PartProps & { item: Outline }) {
  const drag = useDraggable({ id: `from.${path.join(".")}` });
  const name = item.node === null ? "group" : formatRule(item.node);
  return (
    <>
      <Gap path={path} />
      <li
        ref={drag.setNodeRef}
        style={drag.transform ? { transform: `translate(${drag.transform.x}px, ${drag.transform.y}px)`, zIndex: 5 } : undefined}
        className={`group flex items-start gap-1 rounded-[3px] bg-sheet py-0.5 ${drag.isDragging ? "relative shadow-lg" : ""}`}
      >
        <button
          type="button"
          {...drag.attributes}
          {...drag.listeners}
          aria-label={`Move: ${name}`}
          className="mt-0.5 cursor-grab touch-none text-ink-faint opacity-40 group-hover:opacity-100 focus-visible:opacity-100"
        >
          <GripVertical size={13} aria-hidden />
        </button>
        <div className={`min-w-0 flex-1 leading-relaxed ${item.off ? "text-ink-soft line-through decoration-ink-faint" : ""}`}>
          {item.kind === "group" ? (
            <div className="border-l-2 border-edge pl-2">
              <Group root={root} path={path} group={item} names={names} write={write} replace={replace} />
            </div>
          ) : (
            <Phrase node={item.node} names={names} kind="yesno" onReplace={replace} />
          )}
        </div>
        <Menu root={root} path={path} item={item} name={name} write={write} />
      </li>
    </>
  );
}

const wrapped = (text: string): Syntax => parseRule(text).tree!;

function Menu({
  root,
  path,
  item,
  name,
  write,
}: {
  root: Outline;
  path: OutlinePath;
  item: Outline;
  name: string;
  write: (next: Outline) => void;
}) {
  const last = path[path.length - 1];
  const head = path.slice(0, -1);
  const parent = itemAt(root, head);
  const count = parent?.kind === "group" ? parent.items.length : 0;
  const change = (to: (item: Outline) => Outline | Outline[] | null) => write(changedAt(root, path, to));
  const condition = (text: (rule: string) => string) =>
    change((one) => ({ kind: "condition", node: wrapped(text(formatRule(one.node!))), off: one.off }));
  const entry = (label: ReactNode, run: () => void, disabled = false) => (
    <DropdownMenu.Item
      onSelect={run}
      disabled={disabled}
      className="cursor-pointer rounded-[3px] px-2.5 py-1 outline-none data-[disabled]:opacity-40 data-[highlighted]:bg-shade"
    >
      {label}
    </DropdownMenu.Item>
  );
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger aria-label={`More for: ${name}`} className="mt-0.5 rounded p-0.5 text-ink-soft hover:bg-shade">
        <EllipsisVertical size={13} aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className="z-50 min-w-52 rounded-[4px] border border-edge bg-sheet p-1 text-ink shadow-lg">
          {entry(item.off ? "Switch on again" : "Switch off for a try", () => change((one) => ({ ...one, off: !one.off })))}
          {entry("Duplicate", () => change((one) => [one, one]))}
          {entry("Move up", () => write(moved(root, path, [...head, last - 1])), last === 0)}
          {entry("Move down", () => write(moved(root, path, [...head, last + 2])), last >= count - 1)}
          <DropdownMenu.Separator className="my-1 h-px bg-edge" />
          {entry("Group: any of this and …", () =>
            change((one) => ({
              kind: "group",
              join: "any",
              items: [one, { kind: "condition", node: wrapped("close > open"), off: false }],
              off: false,
              node: one.node,
            })),
          )}
          {entry("Group: all of this and …", () =>
            change((one) => ({
              kind: "group",
              join: "all",
              items: [one, { kind: "condition", node: wrapped("close > open"), off: false }],
              off: false,
              node: one.node,
            })),
          )}
          {item.kind === "group" && entry("Take out of the group", () => change((one) => (one.kind === "group" ? one.items : one)))}
          {item.kind === "condition" && (
            <>
              {item.node.type === "not"
                ? entry("Without “not”", () =>
                    change((one) => ({ kind: "condition", node: (one.node as Syntax & { type: "not" }).x, off: one.off })),
                  )
                : entry("Not", () => condition((rule) => `not (${rule})`))}
              {entry("On each of the last 3 bars", () => condition((rule) => `(${rule}) throughout 3`))}
              {entry("On one of the last 5 bars", () => condition((rule) => `(${rule}) somewhere in 5`))}
              {entry("One bar earlier", () => condition((rule) => `(${rule}) 1 back`))}
              {entry("On weekly bars", () => condition((rule) => `(${rule}) on 1w`))}
            </>
          )}
          <DropdownMenu.Separator className="my-1 h-px bg-edge" />
          {entry("Take out", () => change(() => null))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
