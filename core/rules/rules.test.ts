import fc from "fast-check";
import { readFileSync } from "node:fs";
import { buildParserFile } from "@lezer/generator";
import { describe, expect, it } from "vitest";
import { emptyBars, type Bars } from "#core/bars";
import {
  checkRule,
  ColumnStore,
  formatRule,
  FUNCTIONS,
  MAX_DEPTH,
  nameFault,
  parseRule,
  SERIES_NAMES,
  SettingError,
  warmup,
  type Scope,
  EMPTY_SCOPE,
} from ".";

/** Formulas as the grammar can make them, by kind. */
const number: fc.Memo<string> = fc.memo((depth) => {
  const leaf = fc.oneof(
    fc.constantFrom(...SERIES_NAMES, "fast", "level"),
    fc.integer({ min: 0, max: 500 }).map(String),
    fc.constantFrom("0.5", "09:30"),
  );
  if (depth <= 1) return leaf;
  const sub = number(depth - 1);
  return fc.oneof(
    leaf,
    fc.tuple(sub, fc.constantFrom("+", "-", "*", "/", "%"), sub).map(([x, o, y]) => `(${x}) ${o} (${y})`),
    fc.tuple(sub, fc.constantFrom("+", "-", "*"), sub).map(([x, o, y]) => `${x} ${o} ${y}`),
    sub.map((x) => `-(${x})`),
    fc.tuple(sub, fc.integer({ min: 0, max: 5 })).map(([x, n]) => `(${x}) ${n} back`),
    fc
      .tuple(
        fc.constantFrom("sma", "ema", "wilder", "stdev", "highest", "lowest", "median", "rsi", "change", "roc", "wma", "sum"),
        sub,
        fc.integer({ min: 1, max: 6 }),
      )
      .map(([f, x, n]) => `${f}(${x} + close, ${n})`),
    fc.tuple(yesno(depth - 1), sub, sub).map(([c, x, y]) => `if(${c}, ${x}, ${y})`),
    fc.constantFrom("atr(3)", "macd(2, 4, 2).signal", "bollinger(close, 5, 2).upper", "donchian(4).lower"),
  );
});
const yesno: fc.Memo<string> = fc.memo((depth) => {
  const sub = number(depth - 1 > 0 ? depth - 1 : 1);
  const leaf = fc.oneof(
    fc.tuple(sub, fc.constantFrom("<", "<=", ">", ">=", "=", "!="), sub).map(([x, o, y]) => `${x} ${o} ${y}`),
    fc.tuple(sub, sub, sub).map(([x, a, b]) => `${x} from ${a} to ${b}`),
    fc.tuple(sub, fc.constantFrom("rising", "falling")).map(([x, m]) => `${x} is ${m}`),
    fc.tuple(sub, fc.constantFrom("above", "below"), sub).map(([x, d, y]) => `close + ${x} crosses ${d} ${y}`),
  );
  if (depth <= 1) return leaf;
  const inner = yesno(depth - 1);
  return fc.oneof(
    leaf,
    fc.tuple(inner, fc.constantFrom("and", "or"), inner).map(([x, o, y]) => `${x} ${o} ${y}`),
    fc.tuple(inner, fc.constantFrom("and", "or"), inner).map(([x, o, y]) => `(${x}) ${o} (${y})`),
    inner.map((x) => `not ${x}`),
    fc.tuple(inner, fc.constantFrom("throughout", "somewhere in"), fc.integer({ min: 1, max: 4 })).map(([x, w, n]) => `(${x}) ${w} ${n}`),
  );
});
const anyRule = fc.oneof(number(4), yesno(4));

const scope: Scope = {
  parameters: new Map([
    ["fast", { kind: "whole" }],
    ["level", { kind: "number" }],
  ]),
  definitions: new Map(),
  values: { fast: 3, level: 0.25 },
};

function randomBars(length: number, seed: number): Bars {
  const bars = emptyBars(length);
  let state = seed;
  const next = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
  let price = 50;
  for (let i = 0; i < length; i++) {
    bars.time[i] = i * 86_400_000;
    bars.open[i] = price + Math.round(next() * 8 - 4) / 4;
    bars.close[i] = bars.open[i] + Math.round(next() * 16 - 8) / 4;
    bars.high[i] = Math.max(bars.open[i], bars.close[i]) + Math.round(next() * 4) / 4;
    bars.low[i] = Math.min(bars.open[i], bars.close[i]) - Math.round(next() * 4) / 4;
    bars.volume[i] = Math.round(next() * 1000);
    price = bars.close[i];
  }
  return bars;
}

/** The tree without its places in the text. */
const bare = (text: string): unknown =>
  JSON.parse(
    JSON.stringify(parseRule(text).tree, (key, value) =>
      ["from", "to", "nameTo", "partFrom", "timeframeFrom"].includes(key) ? undefined : value,
    ),
  );

describe("the notation", () => {
  it("has a parser that was made from its grammar", () => {
    const grammar = readFileSync(new URL("./language/rule.grammar", import.meta.url), "utf8");
    const { parser } = buildParserFile(grammar, { fileName: "rule.grammar" });
    const made = (text: string) => /states: "((?:[^"\\]|\\.)*)"/.exec(text)?.[1];
    expect(made(readFileSync(new URL("./language/parser.js", import.meta.url), "utf8"))).toBe(made(parser));
  });

  it("is formatted to a text that reads as the same tree, and stays as it is", () => {
    fc.assert(
      fc.property(anyRule, (text) => {
        const { tree } = parseRule(text);
        const once = formatRule(tree!);
        expect(bare(once)).toEqual(bare(text));
        expect(formatRule(parseRule(once).tree!)).toBe(once);
      }),
      { numRuns: 400 },
    );
  });

  it("evaluates to the same values after formatting", () => {
    const bars = randomBars(60, 7);
    fc.assert(
      fc.property(anyRule, (text) => {
        const formula = checkRule(text, scope).formula!;
        const again = checkRule(formatRule(parseRule(text).tree!), scope).formula!;
        expect(new ColumnStore(bars).column(again, scope.values)).toEqual(new ColumnStore(bars).column(formula, scope.values));
      }),
      { numRuns: 300 },
    );
  });

  it("never looks ahead: values up to a bar do not change when later bars do", () => {
    fc.assert(
      fc.property(anyRule, fc.integer({ min: 5, max: 55 }), fc.integer(), (text, cut, seed) => {
        const formula = checkRule(text, scope).formula!;
        const bars = randomBars(60, 11);
        const other = randomBars(60, seed | 1);
        for (const column of ["open", "high", "low", "close", "volume"] as const) other[column].set(bars[column].subarray(0, cut));
        const values = new ColumnStore(bars).column(formula, scope.values).slice(0, cut);
        expect(new ColumnStore(other).column(formula, scope.values).slice(0, cut)).toEqual(values);
      }),
      { numRuns: 300 },
    );
  });

  it("gives finite numbers or missing ones, and exists once its warm-up is over unless the figures forbid it", () => {
    fc.assert(
      fc.property(anyRule, (text) => {
        const formula = checkRule(text, scope).formula!;
        const column = new ColumnStore(randomBars(60, 3)).column(formula, scope.values);
        for (const value of column) expect(Number.isFinite(value) || Number.isNaN(value)).toBe(true);
        expect(warmup(formula, scope.values)).toBeGreaterThanOrEqual(0);
      }),
      { numRuns: 300 },
    );
  });

  it("is read or refused with a place inside the text, whatever is typed", () => {
    const piece = fc.constantFrom(
      "close",
      "sma",
      "(",
      ")",
      ",",
      ">",
      "<",
      "and",
      "not",
      "3",
      "back",
      " ",
      "\n",
      "#",
      "crosses",
      "above",
      "from",
      "to",
      ".",
      "is",
      "rising",
      "on",
      "1d",
      "of",
      '"',
      "-",
      "if",
      "throughout",
      "in",
      "§",
      "25:00",
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 14 }), (pieces) => {
        const text = pieces.join(" ");
        const { formula, problems } = checkRule(text, scope, "yesno");
        if (formula !== null) return;
        expect(problems.length).toBeGreaterThan(0);
        for (const problem of problems) {
          expect(problem.from).toBeGreaterThanOrEqual(0);
          expect(problem.from).toBeLessThanOrEqual(text.length);
          expect(problem.line).toBeGreaterThanOrEqual(1);
          expect(problem.column).toBeGreaterThanOrEqual(1);
          expect(problem.message).toMatch(/\S.*[.?]$/);
        }
      }),
      { numRuns: 1500 },
    );
  });

  it("never crash or hang the reader, whatever 10,000 characters hold", () => {
    const letters = fc.constantFrom(
      ...'abcxyz019 .,()<>=!+-*/%#"\n:_|&§“\u0000\ud800',
      "close",
      " and ",
      " crosses ",
      "sma(",
      " back ",
      " on 1d",
      "not ",
    );
    fc.assert(
      fc.property(fc.array(letters, { minLength: 10, maxLength: 9000, size: "max" }), fc.nat(60), (pieces, repeat) => {
        const text = (pieces.join("") + "(".repeat(repeat) + pieces.slice(0, 40).join("").repeat(repeat)).slice(0, 10_000);
        const { problems, formula } = checkRule(text, scope, "yesno");
        expect(formula !== null || problems.length > 0).toBe(true);
      }),
      { numRuns: 150 },
    );
  });

  it("may nest 64 deep and no deeper, and be 10,000 characters long and no longer", () => {
    const deep = (n: number) => `${"(".repeat(n)}close${")".repeat(n)} > 1`;
    expect(checkRule(deep(MAX_DEPTH)).problems).toEqual([]);
    expect(checkRule(deep(MAX_DEPTH + 1)).problems[0].message).toMatch(/nests more than 64 deep/);
    expect(checkRule(`${"not ".repeat(65)}close > 1`).problems[0].message).toMatch(/64 deep/);
    expect(checkRule(`close > 1 ${"#".repeat(10_000)}`).problems[0].message).toMatch(/10,000 characters/);
  });

  it("speaks a trader's language about mistakes", () => {
    const first = (rule: string, wanted?: "yesno") => checkRule(rule, scope, wanted).problems[0]?.message;
    expect(first("closs > 3")).toBe("The name “closs” isn't known; did you mean “close”?");
    expect(first("close > fsat")).toContain("did you mean “fast”?");
    expect(first("sma(close, 0) > 1")).toBe("n must be at least 1; here it is 0.");
    expect(first("sma(close, high) > 1")).toContain("it can't change from bar to bar");
    expect(first("highest(20) > 1")).toContain("needs a series");
    expect(first("close", "yesno")).toContain("This is a number; a rule is a yes/no");
    expect(first("close crosses over 3")).toBe("After “crosses” comes “above” or “below”.");
    expect(first("1 crosses above 2")).toContain("Two fixed values never cross");
    expect(checkRule("close on 1h > 3", { ...EMPTY_SCOPE, timeframe: { unit: "day", count: 1 } }).problems[0].message).toContain(
      "the same or coarser bars only",
    );
    expect(checkRule("close on 30m > 3", { ...EMPTY_SCOPE, timeframe: { unit: "minute", count: 20 } }).problems[0].message).toContain(
      "can't be made of 20m ones",
    );
    expect(checkRule("close of KELPP > 3", { ...EMPTY_SCOPE, markets: ["KELP"] }).problems[0].message).toContain("did you mean KELP");
    expect(first("inLnog and close > 3")).toContain("did you mean “inLong”");
    expect(checkRule("barsHeld > 3", { ...EMPTY_SCOPE, position: false }).problems[0].message).toContain("only inside a strategy");
    expect(first("(openR of KELP) > 3")).toContain("the strategy's own bars only");
    expect(first("close > 1 and close > 2 and")).toContain("Something is missing at the end");
  });

  it("understands a left-out series as close", () => {
    const bars = randomBars(40, 5);
    const value = (rule: string) => new ColumnStore(bars).column(checkRule(rule, scope).formula!, scope.values);
    for (const [short, long] of [
      ["rsi(2)", "rsi(close, 2)"],
      ["sma(fast)", "sma(close, fast)"],
      ["change()", "change(close, 1)"],
      ["macd().signal", "macd(close, 12, 26, 9).signal"],
      ["bollinger(5).lower", "bollinger(close, 5, 2).lower"],
    ])
      expect(value(short)).toEqual(value(long));
  });

  it("names what may not be a parameter's name", () => {
    expect(nameFault("fast")).toBe(null);
    for (const name of ["close", "sma", "and", "2x", "a b", "weekday", "inLong"]) expect(nameFault(name)).toMatch(/name/);
  });

  it("documents every function with an example that it can read", () => {
    for (const entry of FUNCTIONS.values()) {
      expect(entry.definition).toMatch(/\.$/);
      const names = {
        ...scope,
        parameters: new Map([...scope.parameters, ["x", { kind: "number" as const }]]),
        values: { ...scope.values, x: 1 },
      };
      expect(checkRule(entry.example, names).problems, entry.example).toEqual([]);
    }
  });
});

describe("columns", () => {
  it("are shared: the same formula is computed once, and dropped only when memory runs short", () => {
    const bars = randomBars(100, 2);
    const store = new ColumnStore(bars);
    const formula = checkRule("sma(close, fast)", scope).formula!;
    expect(store.column(formula, { fast: 3 })).toBe(store.column(formula, { fast: 3 }));
    expect(store.column(formula, { fast: 4 })).not.toBe(store.column(formula, { fast: 3 }));
    const small = new ColumnStore(bars, 1000);
    const first = small.column(formula, { fast: 3 });
    small.column(formula, { fast: 4 });
    small.column(formula, { fast: 5 });
    expect(small.column(formula, { fast: 3 })).not.toBe(first);
    expect(small.column(formula, { fast: 3 })).toEqual(first);
  });

  it("refuse a length that comes out wrong under other values", () => {
    const formula = checkRule("sma(close, fast - 3)", { ...scope, values: { fast: 10, level: 1 } }).formula!;
    expect(() => new ColumnStore(randomBars(10, 1)).column(formula, { fast: 3 })).toThrow(SettingError);
  });
});

describe("suggested fixes", () => {
  const fixed = (text: string): string => {
    const [problem] = checkRule(text).problems;
    const { from, to, insert } = problem.fix!;
    return text.slice(0, from) + insert + text.slice(to);
  };
  it.each([
    ["clsoe > 3", "close > 3"],
    ["smaa(close, 3) > 1", "sma(close, 3) > 1"],
    ["close > sma(close, 3", "close > sma(close, 3)"],
    ["close > 3 && open < 2", "close > 3 and open < 2"],
    ["close == 3", "close = 3"],
    ["close > 3 | open < 2", "close > 3 or open < 2"],
    ["close <> 3", "close != 3"],
  ])("%s becomes %s", (wrong, right) => {
    expect(fixed(wrong)).toBe(right);
    expect(checkRule(right).problems).toEqual([]);
  });

  it("are only offered where something near is known", () => {
    expect(checkRule("qwertyuiop > 3").problems[0].fix).toBeUndefined();
    expect(checkRule("close of KELPP > 3", { ...EMPTY_SCOPE, markets: ["KELP"] }).problems[0].fix).toEqual({
      from: 5,
      to: 14,
      insert: " of KELP",
    });
  });
});
