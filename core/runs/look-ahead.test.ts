import { describe, expect, it } from "vitest";
import { DAY, emptyBars } from "#core/bars";
import { readSettings, readStrategy } from "#core/documents";
import { Random } from "#core/random";
import { FUNCTIONS, SERIES, type FunctionEntry } from "#core/rules";
import { auditLookAhead } from ".";

const random = new Random(21);
const bars = emptyBars(400);
let price = 100;
for (let i = 0; i < bars.length; i++) {
  bars.time[i] = Date.UTC(2020, 0, 1) + i * DAY;
  bars.open[i] = price;
  price += random.normal();
  bars.close[i] = price;
  bars.high[i] = Math.max(bars.open[i], price) + random.uniform();
  bars.low[i] = Math.min(bars.open[i], price) - random.uniform();
  bars.volume[i] = 100 * random.uniform();
}
const settings = readSettings({
  format: "canyon.settings/1",
  capital: 10_000,
  markets: [{ symbol: "X", bars: "x", timeframe: "1d" }],
}).value!;
const audit = (rule: string) => {
  const strategy = readStrategy({
    format: "canyon.strategy/1",
    timeframe: "1d",
    long: { enter: { when: rule }, exit: { when: `not (${rule})` } },
    sizing: { mode: "units", value: 1 },
  }).value!;
  return auditLookAhead(strategy, settings, [bars], 12);
};

/** Every function and series in a rule that says yes and no in turn. */
const rules = [
  ...[...FUNCTIONS.values()].flatMap(({ name, example, parts = [] }) => {
    const call = example
      .replace(/\.\w+$/, "")
      .replace("exp(x)", "exp(1 / close)")
      .replace(/\b60\)/, "15)");
    return parts.length === 0 ? [call] : parts.map((part) => `${name}${call.slice(name.length)}.${part}`);
  }),
  ...SERIES.keys(),
  "sma(close, 3) on 1w",
  "close on 1M",
].map((value) => `${value} > (${value}) 1 back`);

describe("the audit for looking ahead", () => {
  it.each(rules)("%s does not look ahead", (rule) => {
    const { audit: found, problems } = audit(rule);
    expect(problems).toEqual([]);
    expect(found).toMatchObject({ cuts: 12, difference: null });
  });

  it("finds a function that looks one bar ahead, and says where", () => {
    // the function abs, made to give the next bar's value
    const functions = FUNCTIONS as Map<string, FunctionEntry>;
    const honest = functions.get("abs")!;
    functions.set("abs", { ...honest, compute: ([x]) => x.map((_, i) => x[Math.min(i + 1, x.length - 1)]) });
    try {
      const { audit: found } = audit("abs(close) > close");
      expect(found!.difference).toMatchObject({ what: "the signals of X" });
      expect(Date.parse(found!.difference!.at)).toBeLessThan(Date.parse(found!.difference!.cut));
    } finally {
      functions.set("abs", honest);
    }
  });
});
