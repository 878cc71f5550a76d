import type { Syntax } from "./syntax";

const LEVEL: Record<Syntax["type"], number> = {
  or: 1,
  and: 2,
  not: 3,
  throughout: 4,
  somewhere: 4,
  compare: 5,
  fromTo: 5,
  crosses: 5,
  moves: 5,
  arithmetic: 6,
  minus: 8,
  back: 9,
  of: 9,
  on: 9,
  part: 9,
  number: 10,
  clock: 10,
  name: 10,
  call: 10,
  if: 10,
  string: 10,
};

const level = (node: Syntax): number => (node.type === "arithmetic" && "*/%".includes(node.operator) ? 7 : LEVEL[node.type]);

/** A formula's tree as text, with the fewest brackets that keep its meaning. Reading it back gives the same tree. */
export function formatRule(node: Syntax): string {
  const at = (child: Syntax, least: number): string => (level(child) >= least ? formatRule(child) : `(${formatRule(child)})`);
  const count = (child: Syntax): string =>
    child.type === "number" || child.type === "name" ? formatRule(child) : `(${formatRule(child)})`;
  switch (node.type) {
    case "number":
      return plainNumber(node.value);
    case "clock":
      return node.text;
    case "name":
      return node.name;
    case "string":
      return `"${node.text}"`;
    case "call":
      return `${node.name}(${node.args.map(formatRule).join(", ")})`;
    case "if":
      return `if(${node.args.map(formatRule).join(", ")})`;
    case "minus":
      return `-${at(node.x, 8)}`;
    case "arithmetic": {
      const own = level(node);
      return `${at(node.x, own)} ${node.operator} ${at(node.y, own + 1)}`;
    }
    case "compare":
      return `${at(node.x, 6)} ${node.operator} ${at(node.y, 6)}`;
    case "fromTo":
      return `${at(node.x, 6)} from ${at(node.low, 6)} to ${at(node.high, 6)}`;
    case "crosses":
      return `${at(node.x, 6)} crosses ${node.direction} ${at(node.y, 6)}`;
    case "moves":
      return `${at(node.x, 6)} is ${node.motion}`;
    case "throughout":
      return `${at(node.x, 4)} throughout ${count(node.count)}`;
    case "somewhere":
      return `${at(node.x, 4)} somewhere in ${count(node.count)}`;
    case "not":
      return `not ${at(node.x, 3)}`;
    case "and":
      return `${at(node.x, 2)} and ${at(node.y, 3)}`;
    case "or":
      return `${at(node.x, 1)} or ${at(node.y, 2)}`;
    case "back":
      return `${at(node.x, 9)} ${count(node.count)} back`;
    case "of":
      return `${at(node.x, 9)} of ${node.quoted ? `"${node.symbol}"` : node.symbol}`;
    case "on":
      return `${at(node.x, 9)} on ${node.timeframe}`;
    case "part":
      return `${at(node.x, 9)}.${node.part}`;
  }
}

/** A number without an exponent, which the notation does not know. */
function plainNumber(value: number): string {
  const text = String(value);
  if (!/e/i.test(text)) return text;
  const [mantissa, exponent] = text.split("e");
  const [whole, fraction = ""] = mantissa.split(".");
  const shift = Number(exponent);
  if (shift >= 0) return (whole + fraction).padEnd(whole.length + shift, "0");
  return `0.${"0".repeat(-shift - 1)}${whole}${fraction}`;
}
