import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { DAY, emptyBars, type Bars } from "#core/bars";
import { Random } from "#core/random";
import { checkRule, ColumnStore, EMPTY_SCOPE, flat, FUNCTIONS, LiveFormulas, type Column, type PositionName } from ".";

function walk(count: number): Bars {
  const random = new Random(5);
  const bars = emptyBars(count);
  let price = 100;
  for (let i = 0; i < count; i++) {
    bars.time[i] = i * DAY;
    bars.open[i] = price;
    price += random.normal();
    bars.close[i] = price;
    bars.high[i] = Math.max(bars.open[i], price) + random.uniform();
    bars.low[i] = Math.min(bars.open[i], price) - random.uniform();
    bars.volume[i] = Math.round(1000 * random.uniform());
  }
  return bars;
}

/** A position that comes and goes: what a run could have held. */
function positions(bars: Bars, seed: number): Record<PositionName, Column> {
  const random = new Random(seed);
  const { length, close } = bars;
  const number = () => new Float64Array(length).fill(NaN);
  const out = {
    inLong: new Uint8Array(length),
    inShort: new Uint8Array(length),
    barsHeld: number(),
    entryPrice: number(),
    openProfit: number(),
    openR: number(),
  };
  for (let i = 0; i < length;) {
    i += Math.floor(random.uniform() * 12);
    const side = random.uniform() < 0.5 ? 1 : -1;
    const entry = close[Math.min(i, length - 1)];
    for (let held = 0, end = Math.floor(random.uniform() * 40); held < end && i < length; held++, i++) {
      out.inLong[i] = side === 1 ? 1 : 0;
      out.inShort[i] = side === -1 ? 1 : 0;
      out.barsHeld[i] = held;
      out.entryPrice[i] = entry;
      out.openProfit[i] = side * (close[i] - entry);
      out.openR[i] = out.openProfit[i] / 2;
    }
  }
  return out;
}

const bars = walk(400);

function check(rule: string, seed: number): void {
  const { formula, problems } = checkRule(rule, EMPTY_SCOPE);
  expect(problems).toEqual([]);
  const held = positions(bars, seed);
  const store = new ColumnStore(bars);
  const column = store.withPosition(held).column(formula!, {});
  const live = new LiveFormulas(store, {});
  const read = live.read(formula!);
  for (let row = 0; row < bars.length; row++) {
    for (const name of Object.keys(held) as PositionName[]) live.position[name] = held[name][row];
    live.advance(row);
    const value = read(row);
    if (Number.isNaN(column[row])) expect(value, `${rule}, bar ${row}`).toBeNaN();
    else
      expect(Math.abs(value - column[row]), `${rule}, bar ${row}: ${value}, not ${column[row]}`).toBeLessThanOrEqual(
        1e-9 * Math.max(1, Math.abs(column[row])),
      );
  }
}

/** Every function that takes a series or a condition, on a value of the position in its place. */
const calls = [...FUNCTIONS.values()].flatMap(({ name, inputs, settings, parts = [""], yesNo, last, example }) => {
  if (inputs.length === 0 && last === undefined) return [];
  const series = inputs.map((_, i) =>
    yesNo?.includes(i) ? "openProfit > 0" : i === 0 ? "if(inLong or inShort, openProfit, close - open)" : "close",
  );
  const numbers = settings.map((setting) => setting.default ?? (setting.name === "p" ? 70 : 7));
  const args = [...series, ...numbers, ...(last === undefined ? [] : ["if(inLong, entryPrice, close)"])].join(", ");
  return parts.map((part) => `${name}(${args})${part === "" ? "" : `.${part}`}` + (example === "" ? "" : ""));
});

describe("formulas that look at the position, close by close", () => {
  it.each([
    "barsHeld",
    "inLong and barsHeld >= 5",
    "not inLong",
    "openProfit > 2 * atr(14) or openR < -1",
    "openProfit crosses above sma(close, 3) - close",
    "entryPrice crosses below close",
    "openProfit is rising",
    "inLong throughout 3",
    "(openProfit < 0) somewhere in 4",
    "inLong 1 back and not inLong",
    "openProfit 5 back",
    "barsHeld from 3 to 6",
    "if(inShort, -openProfit, openProfit) % 2",
    "sma(openProfit, 4) 2 back is falling",
    "highest(openProfit, 10) - openProfit > 1",
    ...calls,
  ])("%s is what its column over the finished run is", (rule) => check(rule, 9));

  it("agree with their columns whatever was held", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.constantFrom(...calls, "openProfit crosses above 0", "count(inLong, 20) 3 back"),
        (seed, rule) => check(rule, seed),
      ),
      { numRuns: 60 },
    );
  });

  it("begin flat before the run", () => {
    const live = new LiveFormulas(new ColumnStore(bars), {});
    const read = live.read(checkRule("sma(if(inLong, 1, 0), 50)").formula!);
    live.advanceFlat(60);
    expect(read(59)).toBe(0);
    Object.assign(live.position, flat(), { inLong: 1 });
    live.advance(60);
    expect(read(60)).toBeCloseTo(1 / 50, 12);
  });
});
