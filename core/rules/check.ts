import { compareTimeframes, formatTimeframe, parseClock, parseTimeframe, resampleFault, type Timeframe } from "#core/bars";
import { constantValue, restsOnPosition, type Formula, type Kind, type ParameterValues, type PositionName } from "./formula";
import { isKeyword, parseRule, unknownFunction } from "./parse";
import { EXTRA, EXTRA_EXAMPLE, FUNCTIONS, POSITION, SERIES, type FunctionEntry } from "./registry";
import { nearest, problemAt, type RuleProblem } from "./problem";
import type { Syntax } from "./syntax";

export const MAX_COUNT = 100_000;

const OWN_POSITION = "A value of the position is known on the strategy's own bars only; it can't be seen from another market or timeframe.";

/** What a formula may refer to. */
export interface Scope {
  /** parameters by name */
  parameters: ReadonlyMap<string, { kind: "whole" | "number" | "yesNo" }>;
  /** definitions that stand before the formula, checked */
  definitions: ReadonlyMap<string, Formula>;
  /** values at which settings are checked (lengths at least 1, and so on) */
  values: ParameterValues;
  /** names of the extra series that there are, where that is known while the formula is read */
  known?: readonly string[];
  /** symbols of the markets that may be looked at, where that is known */
  markets?: readonly string[];
  /** the bars that the formula is for, where that is known */
  timeframe?: Timeframe;
  /** whether the formula stands in a strategy, where there is a position to look at; yes where it isn't said */
  position?: boolean;
}

export const EMPTY_SCOPE: Scope = { parameters: new Map(), definitions: new Map(), values: {} };

export type Checked = { formula: Formula; problems: [] } | { formula: null; problems: RuleProblem[] };

/** Reads and checks one formula; `wanted` asks for a kind. Gives the formula or everything that is wrong with it, in the order of the text. */
export function checkRule(text: string, scope: Scope = EMPTY_SCOPE, wanted?: Kind): Checked {
  const parsed = parseRule(text);
  if (parsed.tree === null) return { formula: null, problems: parsed.problems };
  const checker = new Checker(text, scope);
  const formula = checker.check(parsed.tree);
  if (formula !== null && wanted !== undefined && formula.kind !== wanted) {
    checker.report(
      parsed.tree,
      wanted === "yesno" ? "This is a number; a rule is a yes/no, such as a comparison." : "This is a yes/no; a number is needed here.",
    );
  }
  if (checker.problems.length > 0 || formula === null) return { formula: null, problems: checker.problems.sort((a, b) => a.from - b.from) };
  return { formula, problems: [] };
}

/** Why a parameter or a definition can't have this name, in a sentence, or null where it can. */
export function nameFault(name: string): string | null {
  if (!/^[A-Za-z][A-Za-z0-9_]*$/.test(name)) return `“${name}” can't be a name: a letter comes first, then letters, digits and _.`;
  if (isKeyword(name)) return `“${name}” is a word of the notation; choose another name.`;
  if (SERIES.has(name)) return `“${name}” is a built-in series; choose another name.`;
  if (FUNCTIONS.has(name) || name === EXTRA) return `“${name}” is a function; choose another name.`;
  if (POSITION.has(name as PositionName)) return `“${name}” is a value of the position; choose another name.`;
  return null;
}

class Checker {
  readonly problems: RuleProblem[] = [];
  constructor(
    private readonly text: string,
    private readonly scope: Scope,
  ) {}

  /** Notes a problem; `instead` is what may have been meant at its place. */
  report(place: { from: number; to: number }, message: string, instead: string | null = null): null {
    const { from, to } = place;
    this.problems.push(problemAt(this.text, from, to, message, instead === null ? undefined : { from, to, insert: instead }));
    return null;
  }

  /** The formula of a tree, or null where something in it was reported. */
  check(node: Syntax): Formula | null {
    const { from, to } = node;
    switch (node.type) {
      case "number":
        return { from, to, op: "value", value: node.value, kind: "number", constant: true, fixedKey: String(node.value) };
      case "clock": {
        const minutes = parseClock(node.text);
        if (minutes === null) return this.report(node, `“${node.text}” is not a time of day; times go from 00:00 to 24:00.`);
        return { from, to, op: "value", value: minutes, kind: "number", constant: true, fixedKey: String(minutes) };
      }
      case "string":
        return this.report(node, "A text in quotes can only name an extra series or a market.");
      case "name":
        return this.name(node);
      case "call":
        return this.call(node, null, node);
      case "part":
        return this.part(node);
      case "if":
        return this.choice(node);
      case "minus": {
        const x = this.number(node.x);
        return x && { from, to, op: "minus", x, kind: "number", constant: x.constant, fixedKey: key("-", x) };
      }
      case "arithmetic": {
        const [x, y] = [this.number(node.x), this.number(node.y)];
        return (
          x &&
          y && {
            from,
            to,
            op: "arithmetic",
            operator: node.operator,
            x,
            y,
            kind: "number",
            constant: x.constant && y.constant,
            fixedKey: key(node.operator, x, y),
          }
        );
      }
      case "compare": {
        const [x, y] = [this.number(node.x), this.number(node.y)];
        return (
          x &&
          y && {
            from,
            to,
            op: "compare",
            operator: node.operator,
            x,
            y,
            kind: "yesno",
            constant: x.constant && y.constant,
            fixedKey: key(node.operator, x, y),
          }
        );
      }
      case "fromTo": {
        const [x, low, high] = [this.number(node.x), this.number(node.low), this.number(node.high)];
        if (!x || !low || !high) return null;
        return {
          from,
          to,
          op: "fromTo",
          x,
          low,
          high,
          kind: "yesno",
          constant: x.constant && low.constant && high.constant,
          fixedKey: key("from", x, low, high),
        };
      }
      case "crosses": {
        const [x, y] = [this.number(node.x), this.number(node.y)];
        if (!x || !y) return null;
        if (x.constant && y.constant) return this.report(node, "Two fixed values never cross; one side must be a series.");
        return {
          from,
          to,
          op: "crosses",
          direction: node.direction,
          x,
          y,
          kind: "yesno",
          constant: false,
          fixedKey: key(`crosses ${node.direction}`, x, y),
        };
      }
      case "moves": {
        const x = this.number(node.x);
        return x && { from, to, op: "moves", motion: node.motion, x, kind: "yesno", constant: false, fixedKey: key(node.motion, x) };
      }
      case "throughout":
      case "somewhere": {
        const x = this.yesno(node.x);
        const count = this.count(node.count, 1);
        return x && count && { from, to, op: node.type, x, count, kind: "yesno", constant: false, fixedKey: key(node.type, x, count) };
      }
      case "back": {
        const x = this.check(node.x);
        const count = this.count(node.count, 0);
        return x && count && { from, to, op: "back", x, count, kind: x.kind, constant: false, fixedKey: key("back", x, count) };
      }
      case "not": {
        const x = this.yesno(node.x);
        return x && { from, to, op: "not", x, kind: "yesno", constant: x.constant, fixedKey: key("not", x) };
      }
      case "and":
      case "or": {
        const [x, y] = [this.yesno(node.x), this.yesno(node.y)];
        return (
          x && y && { from, to, op: node.type, x, y, kind: "yesno", constant: x.constant && y.constant, fixedKey: key(node.type, x, y) }
        );
      }
      case "of": {
        const x = this.check(node.x);
        const { markets } = this.scope;
        if (markets !== undefined && !markets.includes(node.symbol)) {
          const near = nearest(node.symbol, markets);
          return this.report(
            { from: node.x.to, to: node.to },
            `There is no market ${node.symbol} here${near === null ? "." : `; did you mean ${near}?`}`,
            near === null ? null : ` of ${near}`,
          );
        }
        if (x !== null && restsOnPosition(x)) return this.report(node.x, OWN_POSITION);
        return x && { from, to, op: "of", x, symbol: node.symbol, kind: x.kind, constant: false, fixedKey: key(`of ${node.symbol}`, x) };
      }
      case "on": {
        const x = this.check(node.x);
        const at = { from: node.timeframeFrom, to: node.to };
        const timeframe = parseTimeframe(node.timeframe);
        if (timeframe === null)
          return this.report(at, `“${node.timeframe}” is not a timeframe; write a number and a unit, such as 20m, 1h, 1d, 1w or 1M.`);
        const own = this.scope.timeframe;
        const fault = own === undefined ? null : resampleFault(own, timeframe);
        if (fault !== null)
          return this.report(
            at,
            compareTimeframes(own!, timeframe) > 0
              ? `A rule on ${formatTimeframe(own!)} bars can look at the same or coarser bars only, not at ${node.timeframe}.`
              : `Bars of ${node.timeframe} can't be made of ${formatTimeframe(own!)} ones: ${fault}.`,
          );
        if (x !== null && restsOnPosition(x)) return this.report(node.x, OWN_POSITION);
        const name = formatTimeframe(timeframe);
        return x && { from, to, op: "on", x, timeframe: name, kind: x.kind, constant: false, fixedKey: key(`on ${name}`, x) };
      }
    }
  }

  private number(node: Syntax): Formula | null {
    const formula = this.check(node);
    return formula !== null && formula.kind !== "number" ? this.report(node, "This is a yes/no; a number is needed here.") : formula;
  }

  private yesno(node: Syntax): Formula | null {
    const formula = this.check(node);
    return formula !== null && formula.kind !== "yesno"
      ? this.report(node, "This is a number; a yes/no is needed here, such as a comparison.")
      : formula;
  }

  private name(node: Syntax & { type: "name" }): Formula | null {
    const { name } = node;
    const { from, to } = node;
    const definition = this.scope.definitions.get(name);
    if (definition !== undefined) return { ...definition, from, to, named: name };
    const parameter = this.scope.parameters.get(name);
    if (parameter !== undefined)
      return { from, to, op: "parameter", name, kind: parameter.kind === "yesNo" ? "yesno" : "number", constant: true, fixedKey: null };
    if (SERIES.has(name)) return { from, to, op: "series", name, kind: "number", constant: false, fixedKey: name };
    if (FUNCTIONS.has(name) || name === EXTRA)
      return this.report(
        node,
        `“${name}” is a function; its arguments follow in brackets, as in ${FUNCTIONS.get(name)?.example ?? EXTRA_EXAMPLE}.`,
      );
    const position = POSITION.get(name as PositionName);
    if (position !== undefined) {
      if (this.scope.position === false)
        return this.report(node, `“${name}” is a value of the position; there is one only inside a strategy.`);
      return { from, to, op: "position", name: name as PositionName, kind: position.kind, constant: false, fixedKey: name };
    }
    const near = nearest(name, [
      ...this.scope.parameters.keys(),
      ...this.scope.definitions.keys(),
      ...SERIES.keys(),
      ...(this.scope.position === false ? [] : POSITION.keys()),
    ]);
    return this.report(node, `The name “${name}” isn't known${near === null ? "." : `; did you mean “${near}”?`}`, near);
  }

  private part(node: Syntax & { type: "part" }): Formula | null {
    const at = { from: node.partFrom, to: node.to };
    if (node.x.type !== "call") {
      this.check(node.x);
      return this.report(at, "Only a function with several results has parts, as in macd().signal.");
    }
    const entry = FUNCTIONS.get(node.x.name);
    if (entry !== undefined && !entry.parts?.includes(node.part)) {
      const parts = entry.parts?.map((part) => `.${part}`).join(", ");
      return this.report(
        at,
        parts === undefined ? `${entry.name} has no parts.` : `${entry.name} has no part “.${node.part}”; it has ${parts}.`,
      );
    }
    return this.call(node.x, node.part, node);
  }

  private call(node: Syntax & { type: "call" }, part: string | null, place: { from: number; to: number }): Formula | null {
    if (node.name === EXTRA) return this.extra(node, part, place);
    const entry = FUNCTIONS.get(node.name);
    const nameAt = { from: node.from, to: node.nameTo };
    if (entry === undefined) return this.report(nameAt, unknownFunction(node.name), nearest(node.name, FUNCTIONS.keys()));
    const args = node.args.map((arg) => this.check(arg));
    if (args.some((arg) => arg === null)) return null;
    const given = args as Formula[];
    const full = entry.inputs.length + entry.settings.length;
    const leftOut = entry.closeByDefault && (given.length === 0 || (given.length < full && given[0].constant));
    const inputCount = entry.variadic ? Math.max(given.length, entry.inputs.length) : entry.inputs.length - (leftOut ? 1 : 0);
    const inputs = given.slice(0, inputCount);
    const rest = given.slice(inputCount);
    if (inputs.length < inputCount)
      return this.report(
        place,
        `${entry.name} needs ${entry.inputs.length === 1 ? "a series" : "two values"} here, as in ${entry.example}.`,
      );
    const trailing = entry.last !== undefined && rest.length > entry.settings.length ? rest.pop()! : null;
    if (trailing !== null && trailing.kind !== "number")
      return this.report(node.args[node.args.length - 1], "This is a yes/no; a number is needed here.");
    if (rest.length > entry.settings.length)
      return this.report(node.args[inputCount + entry.settings.length], `${entry.name} takes no more arguments than ${entry.example}.`);
    for (const [i, input] of inputs.entries()) {
      const wanted = entry.yesNo?.includes(i) ? "yesno" : "number";
      if (input.kind !== wanted)
        return this.report(
          node.args[i],
          wanted === "number"
            ? "This is a yes/no; a number is needed here."
            : "This is a number; a yes/no is needed here, such as a comparison.",
        );
    }
    const settings: Formula[] = [];
    for (const [i, setting] of entry.settings.entries()) {
      if (i < rest.length) {
        if (!this.setting(rest[i], node.args[inputCount + i], setting, entry)) return null;
        settings.push(rest[i]);
      } else if (setting.default !== undefined) {
        settings.push(value(setting.default, place));
      } else
        return this.report(
          place,
          inputs.length > 0 && inputs[0].constant
            ? `${entry.name} needs a series first, then a number of bars, as in ${entry.example}.`
            : `${entry.name} needs ${setting.name === "n" ? "a number of bars" : setting.name}, as in ${entry.example}.`,
        );
    }
    if (leftOut)
      inputs.unshift({ from: place.from, to: place.to, op: "series", name: "close", kind: "number", constant: false, fixedKey: "close" });
    if (entry.last !== undefined)
      inputs.push(
        trailing ?? {
          from: place.from,
          to: place.to,
          op: "series",
          name: entry.last.default,
          kind: "number",
          constant: false,
          fixedKey: entry.last.default,
        },
      );
    const chosen = part ?? entry.defaultPart ?? null;
    if (chosen === null && entry.parts !== undefined)
      return this.report(
        place,
        `${entry.name} has several results; name one of ${entry.parts.map((name) => `.${name}`).join(", ")}, as in ${entry.example}.`,
      );
    const constant =
      entry.remembers !== true && entry.settings.length === 0 && inputs.length > 0 && inputs.every((input) => input.constant);
    return {
      from: place.from,
      to: place.to,
      op: "call",
      entry,
      inputs,
      settings,
      part: chosen,
      kind: "number",
      constant,
      fixedKey: key(`${entry.name}${chosen === null ? "" : `.${chosen}`}`, ...inputs, ...settings),
    };
  }

  /** `series("name")`: dated values that belong to the market. */
  private extra(node: Syntax & { type: "call" }, part: string | null, place: { from: number; to: number }): Formula | null {
    const [name] = node.args;
    if (part !== null || node.args.length !== 1 || name.type !== "string")
      return this.report(place, `series takes the name of an extra series in quotes, as in ${EXTRA_EXAMPLE}.`);
    if (!/^[A-Za-z][A-Za-z0-9_]*$/.test(name.text))
      return this.report(name, `“${name.text}” can't be the name of an extra series: a letter comes first, then letters, digits and _.`);
    const { known } = this.scope;
    if (known !== undefined && !known.includes(name.text)) {
      const near = nearest(name.text, known);
      return this.report(
        name,
        `The market has no extra series “${name.text}”${near === null ? "." : `; did you mean “${near}”?`}`,
        near === null ? null : `"${near}"`,
      );
    }
    return {
      from: place.from,
      to: place.to,
      op: "extra",
      name: name.text,
      kind: "number",
      constant: false,
      fixedKey: `(series "${name.text}")`,
    };
  }

  private setting(formula: Formula, at: Syntax, setting: FunctionEntry["settings"][number], entry: FunctionEntry): boolean {
    if (formula.kind !== "number") return this.report(at, "This is a yes/no; a number is needed here.") !== null;
    if (!formula.constant)
      return (
        this.report(at, `${setting.name} of ${entry.name} must be made of numbers and parameters; it can't change from bar to bar.`) !==
        null
      );
    const fault = settingFault(constantValue(formula, this.scope.values), setting);
    return fault === null || this.report(at, fault) !== null;
  }

  private count(node: Syntax, least: number): Formula | null {
    const formula = this.number(node);
    if (formula === null) return null;
    if (!formula.constant) return this.report(node, "This count must be made of numbers and parameters.");
    const fault = countFault(constantValue(formula, this.scope.values), least);
    return fault === null ? formula : this.report(node, fault);
  }

  private choice(node: Syntax & { type: "if" }): Formula | null {
    if (node.args.length !== 3) return this.report(node, "if takes a condition and two values, as in if(close > open, high, low).");
    const [condition, x, y] = [this.yesno(node.args[0]), this.check(node.args[1]), this.check(node.args[2])];
    if (!condition || !x || !y) return null;
    if (x.kind !== y.kind)
      return this.report(node.args[2], `The first choice is a ${word(x.kind)} and this a ${word(y.kind)}; both must be of one kind.`);
    const constant = condition.constant && x.constant && y.constant;
    return { from: node.from, to: node.to, op: "if", condition, x, y, kind: x.kind, constant, fixedKey: key("if", condition, x, y) };
  }
}

const word = (kind: Kind): string => (kind === "number" ? "number" : "yes/no");

const value = (number: number, place: { from: number; to: number }): Formula => ({
  from: place.from,
  to: place.to,
  op: "value",
  value: number,
  kind: "number",
  constant: true,
  fixedKey: String(number),
});

function key(operator: string, ...parts: Formula[]): string | null {
  if (parts.some((part) => part.fixedKey === null)) return null;
  return `(${operator} ${parts.map((part) => part.fixedKey).join(" ")})`;
}

/** What is wrong with a setting's value, or null. */
export function settingFault(x: number, setting: FunctionEntry["settings"][number]): string | null {
  if (!Number.isFinite(x)) return `${setting.name} has no value here.`;
  if ((setting.whole || setting.integer) && !Number.isInteger(x)) return `${setting.name} must be a whole number; here it is ${x}.`;
  if (setting.least !== undefined && x < setting.least) return `${setting.name} must be at least ${setting.least}; here it is ${x}.`;
  if (setting.most !== undefined && x > setting.most) return `${setting.name} may be at most ${setting.most}; here it is ${x}.`;
  if (setting.whole && x > MAX_COUNT) return `${setting.name} may be at most ${MAX_COUNT.toLocaleString("en")}; here it is ${x}.`;
  return null;
}

/** What is wrong with the count of `back`, `throughout` or `somewhere in`, or null. */
export function countFault(x: number, least: number): string | null {
  return settingFault(x, { name: "A number of bars", whole: true, least });
}
