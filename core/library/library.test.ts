import { describe, expect, it } from "vitest";
import { DAY, emptyBars, MINUTE, parseTimeframe, type Bars } from "#core/bars";
import { Random } from "#core/random";
import { checkRule, ColumnStore, formatRule, parseRule } from "#core/rules";
import { textInWords } from "#core/wording";
import { DEFINITION_KINDS, READY_MADE, readDefinitions } from ".";
import { BARE } from "../rules/session-series";

function walk(count: number, step: number, seed: number): Bars {
  const random = new Random(seed);
  const bars = emptyBars(count);
  let price = 100;
  for (let i = 0; i < count; i++) {
    bars.time[i] = i * step;
    bars.open[i] = price + random.normal() * 0.4;
    price = Math.max(5, price + random.normal() * (1 + Math.sin(i / 300)));
    bars.close[i] = price;
    bars.high[i] = Math.max(bars.open[i], price) + random.uniform();
    bars.low[i] = Math.min(bars.open[i], price) - random.uniform();
    bars.volume[i] = 1000 * random.uniform();
  }
  return bars;
}

describe("ready-made definitions", () => {
  it("are at least fifty, in four kinds, each with a name of its own and a reason", () => {
    expect(READY_MADE.length).toBeGreaterThanOrEqual(50);
    for (const kind of DEFINITION_KINDS) expect(READY_MADE.filter((one) => one.kind === kind).length).toBeGreaterThanOrEqual(8);
    expect(new Set(READY_MADE.map(({ name }) => name)).size).toBe(READY_MADE.length);
    for (const { about, title } of READY_MADE) expect([about.endsWith("."), title.length > 0]).toEqual([true, true]);
    expect(readDefinitions({ format: "canyon.definitions/1", definitions: READY_MADE }).problems).toEqual([]);
  });

  it.each(READY_MADE.map((one) => [one.name, one] as const))("%s says yes now and then, not always", (_name, { rule }) => {
    const { formula } = checkRule(rule, undefined, "yesno");
    const intraday = /opening|session|on 1d/.test(rule);
    const step = intraday ? 15 * MINUTE : DAY;
    const bars = walk(intraday ? 9000 : 4000, step, 3);
    const context = { ...BARE, timeframe: parseTimeframe(intraday ? "15m" : "1d")! };
    const store = new ColumnStore(bars, undefined, {}, context);
    const other = new ColumnStore(walk(4000, step, 8), undefined, {}, context);
    store.link(() => other);
    // one market for every symbol would make a ratio of one
    const second = new ColumnStore(walk(4000, step, 9), undefined, {}, context);
    store.link((symbol) => (symbol === "SHORE10" ? other : second));
    const column = store.column(formula!, {});
    const share = [...column].reduce((sum, x) => sum + x, 0) / column.length;
    expect(share).toBeGreaterThan(0);
    expect(share).toBeLessThan(0.9);
    expect(formatRule(parseRule(rule).tree!)).toBe(rule);
    expect(textInWords(rule)).not.toMatch(/\{|\}|undefined/);
  });

  it("are refused from a file that is wrong, with the place", () => {
    const wrong = { format: "canyon.definitions/1", definitions: [{ name: "close", kind: "trigger", title: "x", rule: "close >" }] };
    expect(readDefinitions(wrong).problems.map(({ path }) => path)).toEqual(["definitions[0].name", "definitions[0].rule"]);
    expect(readDefinitions({ format: "canyon.definitions/2", definitions: [] }).problems[0].path).toBe("format");
  });
});
