import { describe, expect, it } from "vitest";
import { DAY, emptyBars, MarketCalendar, MINUTE, parseTimeframe, sliceBars, type Bars } from "#core/bars";
import { Random } from "#core/random";
import { checkRule, ColumnStore, FUNCTIONS, SERIES, warmup } from ".";

const session = { zone: "Europe/Copenhagen", open: "09:00", close: "11:00", days: [1, 2, 3, 4, 5] };

/** A random walk; minutes within sessions, or days. */
function walk(count: number, intraday: boolean): Bars {
  const random = new Random(11);
  const bars = emptyBars(count);
  let price = 100;
  for (let i = 0; i < count; i++) {
    const day = Math.floor(intraday ? i / 24 : i);
    const date = Date.UTC(2024, 0, 8) + (Math.floor(day / 5) * 7 + (day % 5)) * DAY;
    bars.time[i] = intraday ? date + 8 * 60 * MINUTE + (i % 24) * 5 * MINUTE : date;
    bars.open[i] = price;
    price += random.normal();
    bars.close[i] = price;
    bars.high[i] = Math.max(bars.open[i], price) + random.uniform();
    bars.low[i] = Math.min(bars.open[i], price) - random.uniform();
    bars.volume[i] = 1000 * random.uniform();
  }
  return bars;
}

const rules = [
  ...SERIES.keys(),
  ...[...FUNCTIONS.values()].flatMap(({ example, parts = [], name }) => {
    const call = example
      .replace(/\.\w+$/, "")
      .replace("exp(x)", "exp(1 / close)")
      .replace(/\b60\)/, "15)");
    return parts.length === 0 ? [call] : parts.map((part) => `${name}${call.slice(name.length)}.${part}`);
  }),
  "close on 1w",
  "sma(close, 3) on 1M",
  "(close > open) on 1w",
];

describe.each([
  ["days", "1d", false],
  ["minutes of sessions", "5m", true],
])("on %s", (_name, timeframe, intraday) => {
  const all = walk(420, intraday);
  const context = { calendar: new MarketCalendar(intraday ? session : null), timeframe: parseTimeframe(timeframe)! };
  const column = (bars: Bars, rule: string) => new ColumnStore(bars, undefined, undefined, context).column(checkRule(rule).formula!, {});

  it.each(rules)("%s knows nothing of later bars", (rule) => {
    expect(checkRule(rule).problems).toEqual([]);
    const whole = column(all, rule);
    for (const cut of [1, 2, 97, 240, 419]) {
      const part = column(sliceBars(all, 0, cut), rule);
      for (let i = 0; i < cut; i++) if (!Object.is(part[i], whole[i])) expect(part[i], `bar ${i} of ${cut}`).toBeCloseTo(whole[i], 9);
    }
  });

  it.each(rules)("%s has no value before its warm-up, and only finite ones", (rule) => {
    const { formula } = checkRule(rule);
    const values = column(all, rule);
    if (values instanceof Float64Array)
      for (let i = 0; i < Math.min(values.length, warmup(formula!, {})); i++) expect(values[i], `bar ${i}`).toBeNaN();
    for (const value of values) expect(Number.isNaN(value) || Number.isFinite(value)).toBe(true);
  });
});
