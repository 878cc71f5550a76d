import type { ReactNode } from "react";
import { formatRule, parseRule, type Syntax } from "#core/rules";
import {
  FUNCTION_PHRASES,
  MONTHS,
  namedArguments,
  piecesOf,
  SERIES_PHRASES,
  timeframeInWords,
  valueInWords,
  WEEKDAYS,
  withArgument,
} from "#core/wording";
import type { Names } from "./names";
import { NumberHandle } from "./number-handle";
import { Pick } from "./pick";

interface PhraseProps {
  node: Syntax;
  names: Names;
  kind: "number" | "yesno";
  /** puts another tree in the place of a node of this one */
  onReplace: (target: Syntax, by: Syntax) => void;
}

const at = { from: 0, to: 0 };
const LIST = "[field-sizing:content] border-b border-dotted border-ink-soft bg-sheet hover:border-ink";
const TIMEFRAMES = ["5m", "15m", "20m", "30m", "1h", "2h", "4h", "1d", "1w", "1M"];

/** What a condition says of its value: one list that turns a comparison into a crossing, a range, a move. */
const VERBS = [
  [">", "is above"],
  [">=", "is at or above"],
  ["<", "is below"],
  ["<=", "is at or below"],
  ["=", "equals"],
  ["!=", "differs from"],
  ["above", "crosses above"],
  ["below", "crosses below"],
  ["fromTo", "is from … to"],
  ["rising", "is rising"],
  ["falling", "is falling"],
] as const;

type Verb = (typeof VERBS)[number][0];
const verbOf = (node: Syntax): Verb | null =>
  node.type === "compare"
    ? node.operator
    : node.type === "crosses"
      ? node.direction
      : node.type === "moves"
        ? node.motion
        : node.type === "fromTo"
          ? "fromTo"
          : null;

function withVerb(node: Syntax, verb: Verb): Syntax {
  if (node.type !== "compare" && node.type !== "crosses" && node.type !== "moves" && node.type !== "fromTo") return node;
  const { x } = node;
  const other: Syntax = node.type === "fromTo" ? node.low : node.type === "moves" ? parseRule(`${formatRule(x)} 1 back`).tree! : node.y;
  const place = { from: node.from, to: node.to };
  if (verb === "rising" || verb === "falling") return { ...place, type: "moves", motion: verb, x };
  if (verb === "above" || verb === "below") {
    // two fixed values never cross, and neither does a value with a number of its own kind: the number stays where it can
    return { ...place, type: "crosses", direction: verb, x, y: other };
  }
  if (verb === "fromTo") return { ...place, type: "fromTo", x, low: other, high: node.type === "fromTo" ? node.high : other };
  return { ...place, type: "compare", operator: verb, x, y: other };
}

/** A formula as words with quiet handles: every part can be picked anew, every number moved. */
export function Phrase({ node, names, kind, onReplace }: PhraseProps): ReactNode {
  const part = (inner: Syntax, of: "number" | "yesno" = "number", brackets = false) => {
    const open = brackets && ["arithmetic", "and", "or", "if", "compare", "crosses", "fromTo", "moves"].includes(inner.type);
    return (
      <>
        {open && "("}
        <Phrase node={inner} names={names} kind={of} onReplace={onReplace} />
        {open && ")"}
      </>
    );
  };
  const swap = (words: ReactNode, label: string) => (
    <Pick label={label} names={names} kind={kind} current={node} onPick={(by) => onReplace(node, by)}>
      {words}
    </Pick>
  );
  switch (node.type) {
    case "number":
      return (
        <NumberHandle
          label={`number ${node.value}`}
          value={node.value}
          onChange={(value) => onReplace(node, { ...at, type: "number", value })}
        />
      );
    case "clock":
      return (
        <input
          type="time"
          aria-label={`time ${node.text}`}
          value={node.text}
          onChange={(event) => event.target.value !== "" && onReplace(node, { ...at, type: "clock", text: event.target.value })}
          className="figure-text border-b-2 border-ochre bg-transparent"
        />
      );
    case "string":
      return <span className="figure-text">“{node.text}”</span>;
    case "name":
      return swap(SERIES_PHRASES[node.name] ?? <span className="figure-text">{node.name}</span>, `${node.name}: choose another`);
    case "call":
    case "part":
      return <Call node={node} names={names} kind={kind} onReplace={onReplace} part={part} swap={swap} />;
    case "if":
      return (
        <>
          {part(node.args[1], kind, true)} if {part(node.args[0], "yesno", true)}, else {part(node.args[2], kind, true)}
        </>
      );
    case "minus":
      return <>−{part(node.x, "number", true)}</>;
    case "arithmetic":
      return (
        <>
          {part(node.x, "number", true)}{" "}
          <select
            aria-label="calculation"
            value={node.operator}
            onChange={(event) => onReplace(node, { ...node, operator: event.target.value as typeof node.operator })}
            className={LIST}
          >
            {[
              ["+", "+"],
              ["-", "−"],
              ["*", "×"],
              ["/", "÷"],
              ["%", "modulo"],
            ].map(([value, label]) => (
              <option key={value} value={value}>
                {label}
              </option>
            ))}
          </select>{" "}
          {part(node.y, "number", true)}
        </>
      );
    case "compare":
    case "crosses":
    case "moves":
    case "fromTo":
      return (
        <>
          {part(node.x, "number", true)}{" "}
          <select
            aria-label="what it must do"
            value={verbOf(node)!}
            onChange={(event) => onReplace(node, withVerb(node, event.target.value as Verb))}
            className={LIST}
          >
            {VERBS.map(([value, label]) => (
              <option key={value} value={value}>
                {label}
              </option>
            ))}
          </select>{" "}
          {node.type === "fromTo" ? (
            <>
              {value(node.x, node.low, onReplace) ?? part(node.low, "number", true)} to{" "}
              {value(node.x, node.high, onReplace) ?? part(node.high, "number", true)}
            </>
          ) : node.type === "moves" ? null : (
            (value(node.x, node.y, onReplace) ?? part(node.y, "number", true))
          )}
        </>
      );
    case "throughout":
      return (
        <>
          {part(node.x, "yesno", true)}, on each of the last {part(node.count)} bars
        </>
      );
    case "somewhere":
      return (
        <>
          {part(node.x, "yesno", true)}, on at least one of the last {part(node.count)} bars
        </>
      );
    case "not":
      return <>not ({part(node.x, "yesno")})</>;
    case "and":
    case "or":
      return (
        <>
          {part(node.x, "yesno", true)} {node.type} {part(node.y, "yesno", true)}
        </>
      );
    case "back":
      return (
        <>
          {part(node.x, kind, true)}
          {node.x.type === "call" || node.x.type === "part" ? ", " : " "}
          {part(node.count)} {node.count.type === "number" && node.count.value === 1 ? "bar" : "bars"} back
        </>
      );
    case "of":
      return (
        <>
          {part(node.x, kind, true)} of{" "}
          <input
            aria-label={`market ${node.symbol}`}
            defaultValue={node.symbol}
            key={node.symbol}
            onBlur={(event) => {
              const symbol = event.target.value.trim();
              if (symbol !== "" && symbol !== node.symbol)
                onReplace(node, { ...node, symbol, quoted: !/^[A-Za-z][A-Za-z0-9_.]*$/.test(symbol) });
            }}
            style={{ width: `${node.symbol.length + 1}ch` }}
            className="figure-text border-b border-dotted border-ink-soft bg-transparent"
          />
        </>
      );
    case "on":
      return (
        <>
          on{" "}
          <select
            aria-label="timeframe"
            value={node.timeframe}
            onChange={(event) => onReplace(node, { ...node, timeframe: event.target.value })}
            className={LIST}
          >
            {[...new Set([node.timeframe, ...TIMEFRAMES])].map((timeframe) => (
              <option key={timeframe} value={timeframe}>
                {timeframeInWords(timeframe)}
              </option>
            ))}
          </select>{" "}
          bars: {part(node.x, kind)}
        </>
      );
  }
}

/** A month or a weekday by its name, where a number is compared with one. */
function value(series: Syntax, node: Syntax, onReplace: PhraseProps["onReplace"]): ReactNode {
  if (valueInWords(series, node) === null || node.type !== "number" || series.type !== "name") return null;
  const list = series.name === "month" ? MONTHS : WEEKDAYS;
  return (
    <select
      aria-label={series.name}
      value={node.value}
      onChange={(event) => onReplace(node, { ...at, type: "number", value: Number(event.target.value) })}
      className={LIST}
    >
      {list.map((name, i) => (
        <option key={name} value={i + 1}>
          {name}
        </option>
      ))}
    </select>
  );
}

interface CallProps extends PhraseProps {
  node: Syntax & { type: "call" | "part" };
  part: (inner: Syntax, of?: "number" | "yesno", brackets?: boolean) => ReactNode;
  swap: (words: ReactNode, label: string) => ReactNode;
}

/** A function in its own words, its arguments in the gaps. */
function Call({ node, names, onReplace, part, swap }: CallProps) {
  const call = node.type === "part" ? node.x : node;
  const named = call.type === "call" ? namedArguments(call, names.settings) : null;
  const template = call.type === "call" ? FUNCTION_PHRASES[call.name] : undefined;
  if (call.type !== "call" || named === null || template === undefined)
    return swap(<span className="figure-text">{formatRule(node)}</span>, "choose another");
  let swapped = false;
  return piecesOf(template).map((piece, i) => {
    if ("words" in piece) {
      const words = piece.words.trim();
      if (swapped || !/[A-Za-z]/.test(words)) return <span key={i}>{piece.words}</span>;
      swapped = true;
      return (
        <span key={i}>
          {piece.words.startsWith(" ") && " "}
          {swap(words, `${words}: choose another function`)}
          {piece.words.endsWith(" ") && " "}
        </span>
      );
    }
    if (piece.slot === "part")
      return (
        <select
          key={i}
          aria-label="which result"
          value={node.type === "part" ? node.part : named.entry.defaultPart}
          onChange={(event) => onReplace(node, { ...at, type: "part", x: call, part: event.target.value, partFrom: 0 })}
          className={LIST}
        >
          {named.entry.parts?.map((name) => (
            <option key={name} value={name}>
              {name === "percentB" ? "place within" : name}
            </option>
          ))}
        </select>
      );
    const slots = named.entry.variadic && piece.slot === "x" ? named.slots : named.slots.filter((slot) => slot.name === piece.slot);
    return slots.map((slot, k) => {
      const place = named.slots.indexOf(slot);
      const of = slot.kind === "condition" ? "yesno" : "number";
      return (
        <span key={`${i} ${k}`}>
          {k > 0 && " and "}
          {slot.given ? (
            part(slot.node, of, true)
          ) : (
            <Phrase
              node={slot.node}
              names={names}
              kind={of}
              onReplace={(_target, by) => onReplace(call, withArgument(call, named, place, by))}
            />
          )}
        </span>
      );
    });
  });
}
