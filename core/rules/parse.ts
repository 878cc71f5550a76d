import type { SyntaxNode } from "@lezer/common";
import { parser } from "./language/parser.js";
import { functionNames } from "./language/function-names.js";
import { EXTRA, EXTRA_EXAMPLE, FUNCTIONS, SERIES_NAMES } from "./registry";
import { nearest, problemAt, type RuleFix, type RuleProblem } from "./problem";
import type { ArithmeticOperator, CompareOperator, Syntax } from "./syntax";

export const MAX_LENGTH = 10_000;
export const MAX_DEPTH = 64;
const KEYWORDS = new Set("and or not throughout somewhere in from to crosses above below is rising falling back of on if".split(" "));
export const isKeyword = (word: string): boolean => KEYWORDS.has(word);

for (const name of [...FUNCTIONS.keys(), EXTRA]) functionNames.add(name);

export type Parsed = { tree: Syntax; problems: [] } | { tree: null; problems: RuleProblem[] };

/** Reads a formula. Gives its tree, or the first place that can't be read and what was expected there. */
export function parseRule(text: string): Parsed {
  const refuse = (from: number, to: number, message: string): Parsed => ({ tree: null, problems: [problemAt(text, from, to, message)] });
  if (text.length > MAX_LENGTH)
    return refuse(MAX_LENGTH, text.length, `A formula may have at most ${MAX_LENGTH.toLocaleString("en")} characters.`);
  const deep = tooDeep(text);
  if (deep >= 0) return refuse(deep, deep + 1, `This nests more than ${MAX_DEPTH} deep; name a part of it in a definition.`);
  const tree = parser.parse(text);
  let error: { from: number; to: number; parent: string } | null = null;
  tree.iterate({
    enter(node) {
      if (error === null && node.type.isError) error = { from: node.from, to: node.to, parent: node.node.parent?.name ?? "" };
    },
  });
  if (error !== null) return { tree: null, problems: [syntaxProblem(text, error)] };
  return { tree: convert(children(tree.topNode)[0], text), problems: [] };
}

const SPACE = /^(?:\s|#[^\n]*)+/;

/** Offset of the first bracket, call, `not` or minus that opens one level too many, or −1. */
function tooDeep(text: string): number {
  let depth = 0;
  let prefixes = 0;
  const stack: number[] = [];
  const token = /#[^\n]*|[A-Za-z][A-Za-z0-9_]*|\d+(?:\.\d+)?|"[^"\n]*"|\S/g;
  let operandBefore = false;
  for (let match = token.exec(text); match !== null; match = token.exec(text)) {
    const word = match[0];
    if (word[0] === "#") continue;
    if (word === "(") {
      stack.push(depth);
      depth += 1 + prefixes;
      prefixes = 0;
      operandBefore = false;
    } else if (word === ")") {
      depth = stack.pop() ?? 0;
      prefixes = 0;
      operandBefore = true;
    } else if (word === "not" || (word === "-" && !operandBefore)) {
      prefixes++;
    } else {
      operandBefore = /^[A-Za-z0-9"]/.test(word) && !(KEYWORDS.has(word) && word !== "back" && word !== "rising" && word !== "falling");
      prefixes = 0;
    }
    if (depth + prefixes > MAX_DEPTH) return match.index;
  }
  return -1;
}

function syntaxProblem(text: string, error: { from: number; to: number; parent: string }): RuleProblem {
  const unknown = unknownCall(text, error.from);
  if (unknown !== null) return unknown;
  let from = error.from;
  const gap = SPACE.exec(text.slice(from));
  if (gap !== null) from += gap[0].length;
  if (text.slice(from) === "") {
    const end = text.replace(/\s+$/, "").length;
    if (text.replace(/#[^\n]*/g, "").trim() === "")
      return problemAt(text, 0, 0, "The formula is empty; write a condition such as close > sma(close, 200).");
    if (isOpen(text))
      return problemAt(text, text.length, text.length, "A bracket is not closed; a ) is missing at the end.", {
        from: end,
        to: end,
        insert: ")",
      });
    const before = /([A-Za-z_]+)\s*$/.exec(text.slice(0, end))?.[1] ?? "";
    return problemAt(
      text,
      text.length,
      text.length,
      expectedAfter(before) ?? "Something is missing at the end: a number, a name or a bracket should follow.",
    );
  }
  const found = /^(?:[A-Za-z][A-Za-z0-9_]*|\d+(?:\.\d+)?|[<>!]=|\S)/.exec(text.slice(from))![0];
  const before = /([A-Za-z_][A-Za-z0-9_]*|\S)\s*$/.exec(text.slice(0, from).replace(/#[^\n]*/g, (c) => " ".repeat(c.length)))?.[1] ?? "";
  return problemAt(text, from, from + found.length, messageFor(found, before, error.parent, text, from), habitFix(text, from, before));
}

/** Ways of writing that come from elsewhere, and how the notation says it. */
const HABITS: readonly [habit: string, here: string][] = [
  ["&&", " and "],
  ["||", " or "],
  ["==", "="],
  ["<>", "!="],
  ["=>", ">="],
  ["=<", "<="],
  ["&", " and "],
  ["|", " or "],
  ["!", "not "],
];

function habitFix(text: string, from: number, before: string): RuleFix | undefined {
  if (before === "crosses" || before === "is") return undefined;
  for (const [habit, insert] of HABITS)
    for (const start of [from, from - 1])
      if (start >= 0 && text.startsWith(habit, start) && text.slice(start, start + 2) !== "!=") {
        let [a, b] = [start, start + habit.length];
        if (insert.startsWith(" ")) while (a > 0 && text[a - 1] === " ") a--;
        if (insert.endsWith(" ")) while (text[b] === " ") b++;
        return { from: a, to: b, insert };
      }
  return undefined;
}

function expectedAfter(word: string): string | null {
  switch (word) {
    case "crosses":
      return "After “crosses” comes “above” or “below”.";
    case "is":
      return "After “is” comes “rising” or “falling”.";
    case "somewhere":
      return "After “somewhere” comes “in” and a number of bars, as in somewhere in 5.";
    case "throughout":
    case "in":
      return `After “${word}” comes a number of bars, as in ${word === "in" ? "somewhere in 5" : "throughout 3"}.`;
    case "on":
      return "After “on” comes a timeframe, as in on 1d or on 1w.";
    case "of":
      return "After “of” comes a market's symbol.";
    default:
      return functionNames.has(word)
        ? `“${word}” is a function; its arguments follow in brackets, as in ${FUNCTIONS.get(word)?.example ?? EXTRA_EXAMPLE}.`
        : null;
  }
}

function messageFor(found: string, before: string, parent: string, text: string, from: number): string {
  const expected = expectedAfter(before);
  if (expected !== null) return expected;
  if (parent === "FromTo") return "“from” needs “to” and a second value, as in rsi(2) from 0 to 25.";
  if (parent === "Comparison" && /^[<>=!]/.test(found) && !/^[<>=!]/.test(before))
    return "Comparisons can't be chained; join two with “and”.";
  if (/^[<>=!]/.test(found) && /^[A-Za-z0-9_)]$|^[A-Za-z]/.test(before)) return "Comparisons can't be chained; join two with “and”.";
  if (found === ")" && !isOpen(text.slice(0, from))) return "This bracket closes nothing; take it out.";
  if (found === ")" || found === ",")
    return before === "," || before === "(" ? "An argument is missing here." : "A value is missing before this.";
  if (/^[§$&@^~`´;:{}[\]\\|?!]$/.test(found)) return `“${found}” means nothing in a rule.`;
  if (parent === "Back") return "After a name and a number comes “back”, as in close 2 back.";
  if (/^[<>=*/%+]/.test(found)) return "A value is missing before this: a number, a name or a bracket.";
  return `“${found}” can't stand here; an operator such as >, + or “and” was expected before it.`;
}

const isOpen = (text: string): boolean => {
  const bare = text.replace(/#[^\n]*/g, "").replace(/"[^"\n]*"/g, "");
  return bare.split("(").length > bare.split(")").length;
};

/** A name with a bracket that is no function: most often a misspelt one, which confuses everything after it. */
function unknownCall(text: string, until: number): RuleProblem | null {
  const bare = text.replace(/#[^\n]*/g, (comment) => " ".repeat(comment.length));
  const call = /\b([A-Za-z][A-Za-z0-9_]*)\s*\(/g;
  for (let match = call.exec(bare); match !== null && match.index <= until; match = call.exec(bare)) {
    const name = match[1];
    if (functionNames.has(name) || KEYWORDS.has(name) || SERIES_NAMES.includes(name)) continue;
    if (/\bback\b/.test(closing(bare, match.index + match[0].length))) continue;
    const near = nearest(name, FUNCTIONS.keys());
    const [from, to] = [match.index, match.index + name.length];
    return problemAt(text, from, to, unknownFunction(name), near === null ? undefined : { from, to, insert: near });
  }
  return null;
}

/** What follows the bracket that was opened just before `from`. */
function closing(text: string, from: number): string {
  let depth = 1;
  for (let i = from; i < text.length; i++) {
    if (text[i] === "(") depth++;
    if (text[i] === ")" && --depth === 0)
      return text
        .slice(i + 1)
        .trimStart()
        .slice(0, 5);
  }
  return "";
}

/** The sentence for a function that does not exist. */
export function unknownFunction(name: string): string {
  const near = nearest(name, FUNCTIONS.keys());
  return `There is no function “${name}”${near === null ? "." : `; did you mean “${near}”?`}`;
}

function children(node: SyntaxNode): SyntaxNode[] {
  const out: SyntaxNode[] = [];
  for (let child = node.firstChild; child !== null; child = child.nextSibling) if (child.name !== "Comment") out.push(child);
  return out;
}

function convert(node: SyntaxNode, text: string): Syntax {
  const { from, to } = node;
  const raw = (n: SyntaxNode) => text.slice(n.from, n.to);
  const kids = children(node);
  const sub = (n: SyntaxNode) => convert(n, text);
  switch (node.name) {
    case "Number":
      return { from, to, type: "number", value: Number(raw(node)) };
    case "Clock":
      return { from, to, type: "clock", text: raw(node) };
    case "Name":
      return { from, to, type: "name", name: raw(node) };
    case "String":
      return { from, to, type: "string", text: raw(node).slice(1, -1) };
    case "Paren":
      return sub(kids[1]);
    case "Call":
      return { from, to, type: "call", name: raw(kids[0]), nameTo: kids[0].to, args: argumentsOf(kids[1], text) };
    case "If":
      return { from, to, type: "if", args: argumentsOf(kids[1], text) };
    case "Minus":
      return { from, to, type: "minus", x: sub(kids[1]) };
    case "Sum":
    case "Product":
      return { from, to, type: "arithmetic", operator: raw(kids[1]) as ArithmeticOperator, x: sub(kids[0]), y: sub(kids[2]) };
    case "Comparison":
      return { from, to, type: "compare", operator: raw(kids[1]) as CompareOperator, x: sub(kids[0]), y: sub(kids[2]) };
    case "FromTo":
      return { from, to, type: "fromTo", x: sub(kids[0]), low: sub(kids[2]), high: sub(kids[4]) };
    case "Crosses":
      return { from, to, type: "crosses", direction: raw(kids[2]) as "above" | "below", x: sub(kids[0]), y: sub(kids[3]) };
    case "Moves":
      return { from, to, type: "moves", motion: raw(kids[2]) as "rising" | "falling", x: sub(kids[0]) };
    case "Throughout":
      return { from, to, type: "throughout", x: sub(kids[0]), count: sub(kids[2]) };
    case "Somewhere":
      return { from, to, type: "somewhere", x: sub(kids[0]), count: sub(kids[3]) };
    case "NotExpression":
      return { from, to, type: "not", x: sub(kids[1]) };
    case "AndExpression":
      return { from, to, type: "and", x: sub(kids[0]), y: sub(kids[2]) };
    case "OrExpression":
      return { from, to, type: "or", x: sub(kids[0]), y: sub(kids[2]) };
    case "Back":
      return { from, to, type: "back", x: sub(kids[0]), count: sub(kids[1]) };
    case "Of": {
      const quoted = kids[2].name === "QuotedSymbol";
      return { from, to, type: "of", x: sub(kids[0]), symbol: quoted ? raw(kids[2]).slice(1, -1) : raw(kids[2]), quoted };
    }
    case "On":
      return { from, to, type: "on", x: sub(kids[0]), timeframe: raw(kids[2]), timeframeFrom: kids[2].from };
    case "Part":
      return { from, to, type: "part", x: sub(kids[0]), part: raw(kids[2]), partFrom: kids[2].from };
    default:
      throw new Error(`the grammar gives a node that is not known here: ${node.name}`);
  }
}

const argumentsOf = (node: SyntaxNode, text: string): Syntax[] =>
  children(node)
    .filter((child) => !["(", ")", ","].includes(child.name))
    .map((child) => convert(child, text));
