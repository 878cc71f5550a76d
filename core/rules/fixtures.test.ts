import { describe, expect, it } from "vitest";
import { MarketCalendar, parseTimeframe, resample } from "#core/bars";
import { readMarket } from "#core/documents";
import { fixtureBars, fixtureJson, near } from "#core/testing/fixtures";
import { checkRule, ColumnStore } from ".";

interface Case {
  name: string;
  timeframe: string;
  market?: string;
  with?: Record<string, string>;
  rule: string;
  bars: string;
  kind: string;
  count: number;
  missing: number;
  sum: number;
  scale: number;
  params?: Record<string, number>;
  probes: [number, number | null][];
}

const cases: Case[] = fixtureJson("rules.json");
function scopeOf(item: Case) {
  const parameters = new Map(Object.keys(item.params ?? {}).map((name) => [name, { kind: "number" as const }]));
  return { parameters, definitions: new Map(), values: item.params ?? {} };
}

const contextOf = ({ timeframe, market }: Case) => ({
  calendar: new MarketCalendar(market === undefined ? null : readMarket(fixtureJson(market)).value!.session),
  timeframe: parseTimeframe(timeframe)!,
});

describe("formulas with known values", () => {
  for (const item of cases)
    it(`${item.name}: ${item.rule}`, () => {
      const checked = checkRule(item.rule, scopeOf(item));
      expect(checked.problems).toEqual([]);
      const formula = checked.formula!;
      expect(formula.kind).toBe(item.kind);
      const context = contextOf(item);
      const { bars } = resample(fixtureBars(item.bars), context.timeframe, context.timeframe, context.calendar);
      const store = new ColumnStore(bars, undefined, undefined, context);
      const others = new Map(
        Object.entries(item.with ?? {}).map(([symbol, file]) => [
          symbol,
          new ColumnStore(fixtureBars(file), undefined, undefined, context),
        ]),
      );
      store.link((symbol) => others.get(symbol) ?? null);
      const column = store.column(formula, item.params ?? {});
      expect(column.length).toBe(item.count);
      const existing = [...column].filter((x) => !Number.isNaN(x));
      expect(column.length - existing.length).toBe(item.missing);
      const sum = existing.reduce((a, b) => a + b, 0);
      expect(near(sum, item.sum, 1e-9, item.scale * item.count), `sum ${sum}, not ${item.sum}`).toBe(true);
      for (const [bar, value] of item.probes) {
        if (value === null) expect(column[bar]).toBeNaN();
        else expect(near(column[bar], value, 1e-9, item.scale), `bar ${bar}: ${column[bar]}, not ${value}`).toBe(true);
      }
    });
});

const wrong: { rule: string; at: [number, number][]; why: string }[] = fixtureJson("errors.json");

describe("formulas that must be refused, with the place", () => {
  for (const item of wrong)
    it(`${JSON.stringify(item.rule)}: ${item.why}`, () => {
      const [problem] = checkRule(item.rule, undefined, "yesno").problems;
      expect(item.at).toContainEqual([problem.line, problem.column]);
      expect(problem.message).toMatch(/^\S.*[.?]$/);
    });
});
