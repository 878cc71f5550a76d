import { formatRule, type Syntax } from "#core/rules";

/** A rule as conditions and groups of them, as the sentence form shows it. */
export type Outline =
  | { kind: "group"; join: "all" | "any"; items: Outline[]; off: boolean; node: Syntax | null }
  | { kind: "condition"; node: Syntax; off: boolean };

const place = { from: 0, to: 0 };
const number = (value: number): Syntax => ({ ...place, type: "number", value });
const comparison = (x: number, y: number): Syntax => ({ ...place, type: "compare", operator: "=", x: number(x), y: number(y) });
const isComparison = (node: Syntax, x: number, y: number): boolean =>
  node.type === "compare" &&
  node.operator === "=" &&
  node.x.type === "number" &&
  node.x.value === x &&
  node.y.type === "number" &&
  node.y.value === y;

/**
 * What is switched off for a try stays in the text and says nothing: among conditions that must all hold it always holds
 * (`p or 1 = 1`), among those of which any may it never does (`p and 1 = 0`).
 */
function switchedOff(node: Syntax, within: "all" | "any"): Syntax | null {
  if (within === "all" && node.type === "or" && isComparison(node.y, 1, 1)) return node.x;
  if (within === "any" && node.type === "and" && isComparison(node.y, 1, 0)) return node.x;
  return null;
}

const chain = (node: Syntax, type: "and" | "or"): Syntax[] =>
  node.type === type ? [...chain(node.x, type), ...chain(node.y, type)] : [node];

/** A rule's tree as an outline; its parts keep their places in the text. */
export function outlineOf(node: Syntax, within: "all" | "any" = "all"): Outline {
  const inner = switchedOff(node, within);
  if (inner !== null) return { ...outlineOf(inner, within), off: true };
  if (node.type === "and" || node.type === "or") {
    const join = node.type === "and" ? "all" : "any";
    return { kind: "group", join, items: chain(node, node.type).map((item) => outlineOf(item, join)), off: false, node };
  }
  return { kind: "condition", node, off: false };
}

/** The rule's root as a group, whatever it is. */
export function rootOutline(node: Syntax | null): Outline & { kind: "group" } {
  const outline = node === null ? null : outlineOf(node);
  if (outline?.kind === "group" && !outline.off) return outline;
  return { kind: "group", join: "all", items: outline === null ? [] : [outline], off: false, node: outline?.node ?? null };
}

/** An outline as a tree; null where nothing is in it. Groups without conditions vanish. */
export function treeOf(outline: Outline, within: "all" | "any" = "all"): Syntax | null {
  const bare = outline.kind === "condition" ? outline.node : joined(outline);
  if (bare === null || !outline.off) return bare;
  return within === "all"
    ? { ...place, type: "or", x: bare, y: comparison(1, 1) }
    : { ...place, type: "and", x: bare, y: comparison(1, 0) };
}

function joined({ items, join }: Outline & { kind: "group" }): Syntax | null {
  const trees = items.map((item) => treeOf(item, join)).filter((tree) => tree !== null);
  if (trees.length === 0) return null;
  return trees.reduce((x, y) => ({ ...place, type: join === "all" ? "and" : "or", x, y }));
}

/** An outline as text, with the comments that stood in the old text at its end, so that none is lost. */
export function textOf(outline: Outline, old: string): string {
  const tree = treeOf(outline);
  const comments = [...old.replace(/"[^"\n]*"/g, (text) => "_".repeat(text.length)).matchAll(/#[^\n]*/g)].map(({ index, 0: { length } }) =>
    old.slice(index, index + length),
  );
  return [tree === null ? "" : formatRule(tree), ...comments].filter((line) => line !== "").join("\n");
}

/** A place in an outline: the numbers of the items from the root down. */
export type OutlinePath = readonly number[];

export function itemAt(root: Outline, path: OutlinePath): Outline | undefined {
  return path.reduce<Outline | undefined>((at, index) => (at?.kind === "group" ? at.items[index] : undefined), root);
}

/** An outline whose item at a path went through a change; null takes it out, several take its place. */
export function changedAt(root: Outline, path: OutlinePath, change: (item: Outline) => Outline | Outline[] | null): Outline {
  if (path.length === 0) {
    const next = change(root);
    if (next === null) return { kind: "group", join: "all", items: [], off: false, node: null };
    return Array.isArray(next) ? { kind: "group", join: "all", items: next, off: false, node: null } : next;
  }
  if (root.kind !== "group") return root;
  const [index, ...rest] = path;
  const items = root.items.flatMap((item, i) => {
    if (i !== index) return [item];
    if (rest.length > 0) return [changedAt(item, rest, change)];
    const next = change(item);
    return next === null ? [] : Array.isArray(next) ? next : [next];
  });
  return { ...root, items: items.filter((item) => item.kind === "condition" || item.items.length > 0) };
}

/** Puts an item before the one at a path (its last number may be one past the end of the group). */
export function insertedAt(root: Outline, path: OutlinePath, item: Outline): Outline {
  if (root.kind !== "group")
    return { kind: "group", join: "all", items: path[0] === 0 ? [item, root] : [root, item], off: false, node: null };
  const [index, ...rest] = path;
  if (rest.length === 0) return { ...root, items: [...root.items.slice(0, index), item, ...root.items.slice(index)] };
  return { ...root, items: root.items.map((one, i) => (i === index ? insertedAt(one, rest, item) : one)) };
}

const startsWith = (path: OutlinePath, head: OutlinePath): boolean => head.every((index, i) => path[i] === index);

/** Moves the item at one path to before another; a group can't be moved into itself, and then nothing changes. */
export function moved(root: Outline, from: OutlinePath, to: OutlinePath): Outline {
  const item = itemAt(root, from);
  if (item === undefined || startsWith(to, from)) return root;
  const marker: Outline = { kind: "condition", node: number(0), off: false };
  const marked = changedAt(root, from, () => marker);
  const placed = insertedAt(marked, to, item);
  return without(placed, marker);
}

function without(root: Outline, marker: Outline): Outline {
  if (root.kind !== "group") return root;
  const items = root.items.filter((item) => item !== marker).map((item) => without(item, marker));
  return { ...root, items: items.filter((item) => item.kind === "condition" || item.items.length > 0) };
}
