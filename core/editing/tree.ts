import { formatRule, parseRule, type Syntax } from "#core/rules";

/** Every tree directly inside another, with a way to put another one in its place. */
export function childrenOf(node: Syntax): Syntax[] {
  switch (node.type) {
    case "number":
    case "clock":
    case "name":
    case "string":
      return [];
    case "call":
    case "if":
      return node.args;
    case "fromTo":
      return [node.x, node.low, node.high];
    case "throughout":
    case "somewhere":
    case "back":
      return [node.x, node.count];
    case "arithmetic":
    case "compare":
    case "crosses":
    case "and":
    case "or":
      return [node.x, node.y];
    default:
      return [node.x];
  }
}

/** The tree with one node (told by identity) replaced. */
export function replaced(root: Syntax, target: Syntax, by: Syntax): Syntax {
  if (root === target) return by;
  const of = (child: Syntax) => replaced(child, target, by);
  switch (root.type) {
    case "number":
    case "clock":
    case "name":
    case "string":
      return root;
    case "call":
    case "if":
      return { ...root, args: root.args.map(of) };
    case "fromTo":
      return { ...root, x: of(root.x), low: of(root.low), high: of(root.high) };
    case "throughout":
    case "somewhere":
    case "back":
      return { ...root, x: of(root.x), count: of(root.count) };
    case "arithmetic":
    case "compare":
    case "crosses":
    case "and":
    case "or":
      return { ...root, x: of(root.x), y: of(root.y) };
    default:
      return { ...root, x: of(root.x) };
  }
}

/**
 * A formula's text with one node of its tree replaced. Only that stretch of the text changes, so that comments and line
 * breaks elsewhere stay; brackets come where the meaning needs them.
 */
export function edited(text: string, root: Syntax, target: Syntax, by: Syntax): string {
  const wanted = formatRule(replaced(root, target, by));
  const inner = formatRule(by);
  const at = (insert: string) => text.slice(0, target.from) + insert + text.slice(target.to);
  for (const insert of [inner, `(${inner})`]) {
    const { tree } = parseRule(at(insert));
    if (tree !== null && formatRule(tree) === wanted) return at(insert);
  }
  return wanted;
}
