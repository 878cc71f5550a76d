import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { readStrategy } from "#core/documents";
import { DAY, emptyBars } from "#core/bars";
import { checkRule, ColumnStore, formatRule, parseRule, type Syntax } from "#core/rules";
import {
  childrenOf,
  changedAt,
  edited,
  insertedAt,
  moved,
  outlineOf,
  renameEverywhere,
  rootOutline,
  textOf,
  treeOf,
  usesOf,
  type Outline,
} from ".";

const tree = (text: string): Syntax => parseRule(text).tree!;
const rules = [
  "close > sma(close, 20) and (rsi(2) < 10 or close < low 3 back) and month from 3 to 6",
  "not (close > open) throughout 3 or volume > 5",
  "(close > open) on 1w and close of KELP is rising",
  "macd().histogram crosses above 0 and if(close > open, high, low) > 3 * atr(14)",
  "(close > 1 or 1 = 1) and close < 2",
  "close > 1 and (close < 3 or (open > 2 and 1 = 0) or low > 1)",
];
const generated = fc.letrec<{ rule: string; leaf: string }>((tie) => ({
  leaf: fc.constantFrom(
    "close > open",
    "rsi(2) < 10",
    "close crosses above sma(close, 9)",
    "(high - low) * 2 > atr(5)",
    "month from 3 to 6",
    "not (open < close)",
  ),
  rule: fc.oneof(
    { maxDepth: 4 },
    tie("leaf"),
    fc.tuple(tie("rule"), tie("rule")).map(([a, b]) => `(${a}) and (${b})`),
    fc.tuple(tie("rule"), tie("rule")).map(([a, b]) => `(${a}) or (${b})`),
    tie("rule").map((a) => `((${a}) or 1 = 1)`),
    tie("rule").map((a) => `(${a}) throughout 2`),
  ),
})).rule;

const bars = emptyBars(120);
for (let i = 0; i < 120; i++) {
  bars.time[i] = i * DAY;
  bars.open[i] = 100 + 5 * Math.sin(i / 3);
  bars.close[i] = 100 + 5 * Math.sin((i + 1) / 3) + (i % 7) / 3;
  bars.high[i] = Math.max(bars.open[i], bars.close[i]) + (i % 5) / 2;
  bars.low[i] = Math.min(bars.open[i], bars.close[i]) - (i % 3) / 2;
}
const values = (text: string) => [...new ColumnStore(bars).column(checkRule(text).formula!, {})];

describe("a rule as an outline", () => {
  it.each(rules)("%s comes back as it was", (rule) => {
    expect(formatRule(treeOf(rootOutline(tree(rule)))!)).toBe(formatRule(tree(rule)));
  });

  it("means the same in both forms, whatever the rule", () => {
    fc.assert(
      fc.property(generated, (rule) => {
        const text = textOf(rootOutline(tree(rule)), rule);
        expect(formatRule(tree(formatRule(tree(text))))).toBe(formatRule(tree(text)));
        expect(values(text)).toEqual(values(rule));
      }),
      { numRuns: 200 },
    );
  });

  it("keeps comments when conditions are moved, switched off and taken out", () => {
    const text = "close > open # up\nand rsi(2) < 10 # dip";
    const root = rootOutline(tree(text));
    expect(textOf(moved(root, [1], [0]), text)).toBe("rsi(2) < 10 and close > open\n# up\n# dip");
    const off = changedAt(root, [0], (item) => ({ ...item, off: true }));
    expect(textOf(off, "")).toBe("(close > open or 1 = 1) and rsi(2) < 10");
    expect(values(textOf(off, ""))).toEqual(values("rsi(2) < 10"));
    const back = rootOutline(tree(textOf(off, "")));
    expect(back.items[0].off).toBe(true);
    expect(
      textOf(
        changedAt(root, [0], () => null),
        "",
      ),
    ).toBe("rsi(2) < 10");
  });

  it("switches off within any-groups so that the rest decides", () => {
    const root = outlineOf(tree("close > open or rsi(2) < 10"));
    const off = changedAt(root, [1], (item) => ({ ...item, off: true }));
    expect(textOf(off, "")).toBe("close > open or rsi(2) < 10 and 1 = 0");
    expect(values(textOf(off, ""))).toEqual(values("close > open"));
  });

  it("moves between groups, never into itself, and lets empty groups vanish", () => {
    const root = rootOutline(tree("close > 1 and (close > 2 or close > 3)"));
    expect(textOf(moved(root, [0], [1, 1]), "")).toBe("close > 2 or close > 1 or close > 3");
    expect(moved(root, [1], [1, 0])).toBe(root);
    const one: Outline = { kind: "condition", node: tree("open > 9"), off: false };
    expect(textOf(insertedAt(root, [1, 2], one), "")).toBe("close > 1 and (close > 2 or close > 3 or open > 9)");
    expect(textOf(rootOutline(null), "")).toBe("");
  });
});

describe("an edit of one node", () => {
  it("changes only its stretch of the text", () => {
    const text = "close > sma(close, 20) # trend\n  and rsi(2) < 10";
    const root = tree(text);
    const twenty = findNumber(root, 20)!;
    expect(edited(text, root, twenty, tree("35"))).toBe("close > sma(close, 35) # trend\n  and rsi(2) < 10");
    expect(edited(text, root, findNumber(root, 10)!, tree("4 + 5"))).toContain("rsi(2) < 4 + 5");
  });

  it("sets brackets where the meaning needs them", () => {
    const text = "close * 2 > open";
    const root = tree(text);
    expect(edited(text, root, findNumber(root, 2)!, tree("1 + 1"))).toBe("close * (1 + 1) > open");
    const whole = tree("close > 5");
    expect(edited("close > 5", whole, whole, tree("open < 3"))).toBe("open < 3");
  });
});

function findNumber(node: Syntax, value: number): Syntax | null {
  if (node.type === "number" && node.value === value) return node;
  for (const child of childrenOf(node)) {
    const found = findNumber(child, value);
    if (found !== null) return found;
  }
  return null;
}

describe("renaming", () => {
  const strategy = readStrategy({
    format: "canyon.strategy/1",
    timeframe: "1d",
    parameters: [{ name: "fast", kind: "whole", value: 9 }],
    definitions: [
      { name: "quick", rule: "sma(close, fast) # fast one" },
      { name: "pick", variants: [{ rule: "quick > open" }, { label: "fast", rule: "close of fast > quick" }] },
    ],
    long: {
      enter: { when: "pick", order: { type: "stop", price: "high + fast", workingBars: 2 } },
      exit: { when: "macd().fast > 1 or quick < fast" },
    },
    protect: {
      stop: { unit: "price", value: "lowest(low, fast)" },
      trail: { unit: "atr", value: "fast", period: "fast" },
      maxBarsHeld: "fast",
    },
    sizing: { mode: "units", value: "fast" },
    priority: "fast * 2",
  }).value!;

  it("goes through every formula and figure, and nothing else", () => {
    const next = renameEverywhere(strategy, "fast", "speed");
    expect(next.parameters![0].name).toBe("speed");
    expect(next.definitions![0].rule).toBe("sma(close, speed) # fast one");
    expect(next.definitions![1].variants![1]).toEqual({ label: "fast", rule: "close of fast > quick" });
    expect(next.long!.enter!.order).toMatchObject({ price: "high + speed" });
    expect(next.long!.exit!.when).toBe("macd().fast > 1 or quick < speed");
    expect(next.protect).toEqual({
      stop: { unit: "price", value: "lowest(low, speed)" },
      trail: { unit: "atr", value: "speed", period: "speed" },
      maxBarsHeld: "speed",
    });
    expect([next.sizing.value, next.priority]).toEqual(["speed", "speed * 2"]);
    expect(renameEverywhere(next, "speed", "fast")).toEqual(strategy);
    expect([usesOf(strategy, "fast"), usesOf(strategy, "quick"), usesOf(strategy, "nothing")]).toEqual([9, 3, 0]);
  });
});
