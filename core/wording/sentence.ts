import { formatRule, parseRule, type Syntax } from "#core/rules";
import { namedArguments } from "./arguments";
import { COMPARISONS, FUNCTION_PHRASES, MONTHS, piecesOf, SERIES_PHRASES, WEEKDAYS } from "./phrases";

/** A rule in words. `settings`: names of parameters, and of definitions that come down to them. */
export function ruleInWords(node: Syntax, settings: ReadonlySet<string> = new Set()): string {
  const say = (inner: Syntax): string => ruleInWords(inner, settings);
  /** where a longer thing stands inside another, brackets keep what belongs together */
  const within = (inner: Syntax): string => (["arithmetic", "and", "or", "if"].includes(inner.type) ? `(${say(inner)})` : say(inner));
  switch (node.type) {
    case "number":
    case "clock":
    case "string":
      return formatRule(node);
    case "name":
      return SERIES_PHRASES[node.name] ?? node.name;
    case "call":
    case "part":
      return callInWords(node, settings);
    case "if":
      return `${within(node.args[1])} if ${within(node.args[0])}, else ${within(node.args[2])}`;
    case "minus":
      return `−${within(node.x)}`;
    case "arithmetic":
      return `${within(node.x)} ${{ "-": "−", "*": "×", "/": "÷", "+": "+", "%": "modulo" }[node.operator]} ${within(node.y)}`;
    case "compare":
      return `${say(node.x)} ${COMPARISONS[node.operator]} ${valueInWords(node.x, node.y) ?? say(node.y)}`;
    case "fromTo":
      return `${say(node.x)} is from ${valueInWords(node.x, node.low) ?? say(node.low)} to ${valueInWords(node.x, node.high) ?? say(node.high)}`;
    case "crosses":
      return `${say(node.x)} crosses ${node.direction} ${say(node.y)}`;
    case "moves":
      return `${say(node.x)} is ${node.motion}`;
    case "throughout":
      return `${within(node.x)}, on each of the last ${say(node.count)} bars`;
    case "somewhere":
      return `${within(node.x)}, on at least one of the last ${say(node.count)} bars`;
    case "not":
      return `not (${say(node.x)})`;
    case "and":
      return `${within2(node.x, "and", settings)} and ${within2(node.y, "and", settings)}`;
    case "or":
      return `${within2(node.x, "or", settings)} or ${within2(node.y, "or", settings)}`;
    case "back":
      return `${within(node.x)}${node.x.type === "call" || node.x.type === "part" ? "," : ""} ${say(node.count)} ${node.count.type === "number" && node.count.value === 1 ? "bar" : "bars"} back`;
    case "of":
      return `${within(node.x)} of ${node.symbol}`;
    case "on":
      return `${within(node.x)} on ${timeframeInWords(node.timeframe)} bars`;
  }
}

const within2 = (node: Syntax, chain: "and" | "or", settings: ReadonlySet<string>): string => {
  const words = ruleInWords(node, settings);
  return (node.type === "and" || node.type === "or") && node.type !== chain ? `(${words})` : words;
};

/** A number beside a calendar series as people say it: November, Friday. */
export function valueInWords(series: Syntax, value: Syntax): string | null {
  if (series.type !== "name" || value.type !== "number") return null;
  if (series.name === "month") return MONTHS[value.value - 1] ?? null;
  if (series.name === "weekday") return WEEKDAYS[value.value - 1] ?? null;
  return null;
}

export const timeframeInWords = (text: string): string =>
  ({ "1d": "daily", "1w": "weekly", "1M": "monthly" })[text] ?? text.replace(/^(\d+)m$/, "$1-minute").replace(/^(\d+)h$/, "$1-hour");

function callInWords(node: Syntax & { type: "call" | "part" }, settings: ReadonlySet<string>): string {
  const call = node.type === "part" ? node.x : node;
  if (call.type !== "call") return formatRule(node);
  if (call.name === "series" && call.args[0]?.type === "string") return `extra series “${call.args[0].text}”`;
  const named = namedArguments(call, settings);
  const phrase = FUNCTION_PHRASES[call.name];
  if (named === null || phrase === undefined) return formatRule(node);
  const part = node.type === "part" ? node.part : (named.entry.defaultPart ?? "");
  const said = (inner: Syntax): string => {
    const words = ruleInWords(inner, settings);
    return ["arithmetic", "and", "or", "if", "compare", "crosses", "fromTo", "moves"].includes(inner.type) ? `(${words})` : words;
  };
  const rest = named.entry.variadic ? named.slots.slice(1).map((slot) => said(slot.node)) : [];
  return piecesOf(phrase)
    .map((piece) => {
      if ("words" in piece) return piece.words;
      if (piece.slot === "part") return part;
      const slot = named.slots.find((one) => one.name === piece.slot);
      if (slot === undefined) return "";
      return [said(slot.node), ...(named.entry.variadic && piece.slot === "x" ? rest : [])].join(rest.length > 1 ? ", " : " and ");
    })
    .join("");
}

/** A formula's text in words; text that can't be read stays as it is. */
export function textInWords(text: string, settings: ReadonlySet<string> = new Set()): string {
  const { tree } = parseRule(text);
  return tree === null ? text : ruleInWords(tree, settings);
}
