import { FUNCTIONS, type FunctionEntry, type Syntax } from "#core/rules";

/** A call's arguments by the names of its function's slots; what was left out stands as the function understands it. */
export interface NamedArguments {
  entry: FunctionEntry;
  /** slots in the order in which they are written; variadic ones repeat the last name with a number */
  slots: { name: string; kind: "series" | "condition" | "setting"; node: Syntax; given: boolean }[];
}

const at = { from: 0, to: 0 };
const nameNode = (name: string): Syntax => ({ ...at, type: "name", name });

/** Whether a tree comes down to numbers and to names that are settings (parameters, and definitions of such). */
export function isSetting(node: Syntax, settings: ReadonlySet<string>): boolean {
  switch (node.type) {
    case "number":
    case "clock":
      return true;
    case "name":
      return settings.has(node.name);
    case "minus":
      return isSetting(node.x, settings);
    case "arithmetic":
      return isSetting(node.x, settings) && isSetting(node.y, settings);
    default:
      return false;
  }
}

/** Lays a call's arguments on its function's slots; null where there is no such function or something is lacking. */
export function namedArguments(call: Syntax & { type: "call" }, settings: ReadonlySet<string>): NamedArguments | null {
  const entry = FUNCTIONS.get(call.name);
  if (entry === undefined) return null;
  const { args } = call;
  const full = entry.inputs.length + entry.settings.length;
  const leftOut = entry.closeByDefault && (args.length === 0 || (args.length < full && isSetting(args[0], settings)));
  const slots: NamedArguments["slots"] = [];
  let next = 0;
  entry.inputs.forEach((name, i) => {
    const kind = entry.yesNo?.includes(i) ? "condition" : "series";
    if (i === 0 && leftOut) slots.push({ name, kind, node: nameNode("close"), given: false });
    else if (next < args.length) slots.push({ name, kind, node: args[next++], given: true });
  });
  if (slots.length < entry.inputs.length) return null;
  if (entry.variadic) while (next < args.length) slots.push({ name: `x${next + 1}`, kind: "series", node: args[next++], given: true });
  for (const setting of entry.settings) {
    if (next < args.length) slots.push({ name: setting.name, kind: "setting", node: args[next++], given: true });
    else if (setting.default !== undefined)
      slots.push({ name: setting.name, kind: "setting", node: { ...at, type: "number", value: setting.default }, given: false });
    else return null;
  }
  if (entry.last !== undefined) {
    const given = next < args.length;
    slots.push({ name: entry.last.name, kind: "series", node: given ? args[next++] : nameNode(entry.last.default), given });
  }
  return next < args.length ? null : { entry, slots };
}

/** A call with one slot filled anew; slots before it that were left out are written. */
export function withArgument(
  call: Syntax & { type: "call" },
  named: NamedArguments,
  slot: number,
  node: Syntax,
): Syntax & { type: "call" } {
  const last = Math.max(slot, ...named.slots.map((one, i) => (one.given ? i : -1)));
  return { ...call, args: named.slots.slice(0, last + 1).map((one, i) => (i === slot ? node : one.node)) };
}
