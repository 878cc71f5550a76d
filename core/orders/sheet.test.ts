import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { parseDate } from "#core/bars";
import { checkShape, readSettings, readStrategy, type Settings, type Strategy } from "#core/documents";
import { compileStrategy, prepareRun, simulate, type PreparedRun } from "#core/engine";
import { account, casesBars, documents, shape } from "#core/engine/slow/cases";
import { prepareBacktest, runMarkets } from "#core/runs";
import { fixtureBars } from "#core/testing/fixtures";
import { orderRows, ordersDocument, ordersSchema, sheetOf, sheetWithChanges, type Sheet } from ".";

const FILLED_AT_CLOSE = 3;

/** The run up to a date. */
const upTo = (run: PreparedRun, to: string | null): PreparedRun =>
  prepareRun(run.members, { ...run.settings, closeAtEnd: false, to }, run.markets).value!;

/** Session dates of a run, each once. */
const datesOf = (run: PreparedRun): number[] => [...new Set(run.clock.dates)];

/** What the whole run did on the first bar of each market after a date, held against that date's sheet. */
function heldAgainst(run: PreparedRun, sheet: Sheet): { asked: number; filled: number } {
  const { log, legs } = simulate(run, { record: true });
  const date = parseDate(sheet.date)!;
  let [asked, filled] = [0, 0];
  for (const leg of legs) {
    const { dates, spec } = leg.market;
    const name = leg.member.name;
    const own = sheet.orders.filter((order) => order.symbol === spec.symbol && order.member === name);
    const next = dates.findIndex((one) => one > date);
    if (next < 0 || next >= dates.length) continue;
    const trades = Array.from({ length: log.count }, (_, row) => row).filter((row) => log.leg[row] === leg.index);
    const sideOf = (row: number) => (log.side[row] === 1 ? "long" : "short");
    const entered = trades.filter((row) => log.entryRow[row] === next && log.how[row] !== FILLED_AT_CLOSE);
    for (const row of entered) {
      // whatever entered before the next close was on the sheet, with its side and its size
      expect(own.some((order) => order.purpose === "enter" && order.side === sideOf(row) && order.units === log.units[row])).toBe(true);
      filled++;
    }
    for (const order of own) {
      if (order.type !== "market") continue;
      asked++;
      if (order.purpose === "enter") expect(entered.some((row) => sideOf(row) === order.side && log.units[row] === order.units)).toBe(true);
      else {
        const left = trades.filter((row) => log.entryRow[row] < next && log.exitRow[row] === next && log.exitAtClose[row] === 0);
        expect(left.reduce((sum, row) => sum + log.units[row], 0)).toBe(order.units);
      }
    }
    const open = trades.filter((row) => log.entryRow[row] < next && (log.reason[row] === 0 || log.exitRow[row] >= next));
    const held = sheet.positions.filter((one) => one.symbol === spec.symbol && one.member === name);
    expect(held.map((one) => [one.trade, one.side, one.units])).toEqual(open.map((row) => [row + 1, sideOf(row), log.units[row]]));
  }
  return { asked, filled };
}

const daily = (strategy: object, settings: object = {}): PreparedRun => {
  const read = readSettings({
    format: "canyon.settings/1",
    markets: ["FERRY", "KELP"].map((symbol) => ({ symbol, bars: symbol, timeframe: "1d", tick: 0.25 })),
    capital: 100_000,
    ...settings,
  }).value!;
  const own = readStrategy({
    format: "canyon.strategy/1",
    timeframe: "1d",
    sizing: { mode: "equityPercent", value: 40 },
    ...strategy,
  }).value!;
  return prepareBacktest(own, read, [fixtureBars("data/ferry-1d.csv"), fixtureBars("data/kelp-1d.csv")]).run!;
};
const crossing = {
  long: { enter: { when: "close crosses above sma(close, 10)" }, exit: { when: "close < lowest(low, 5) 1 back" } },
  short: {
    enter: { when: "close < lowest(low, 30) 1 back", order: { type: "stop", price: "low - 1", workingBars: 3 } },
    exit: { when: "close > sma(close, 5)" },
  },
  protect: { stop: { unit: "atr", value: 2 }, target: { unit: "r", value: 3 } },
};

describe("the sheet of yesterday", () => {
  it("is what today's run filled, on every date of two markets", () => {
    const run = daily(crossing);
    let [asked, filled] = [0, 0];
    for (const date of datesOf(run)
      .slice(60, -1)
      .filter((_, i) => i % 7 === 0)) {
      const found = heldAgainst(run, sheetOf(upTo(run, new Date(date * 86_400_000).toISOString().slice(0, 10))));
      asked += found.asked;
      filled += found.filled;
    }
    expect(asked).toBeGreaterThan(20);
    expect(filled).toBeGreaterThan(20);
  });

  it("is what today's run filled, for generated strategies, settings and bars", () => {
    let asked = 0;
    fc.assert(
      fc.property(shape, account, fc.integer({ min: 1, max: 1e6 }), fc.nat(), (s, a, seed, at) => {
        const made = documents(s, a);
        if (made === null) return;
        const [strategy, given] = made as [Strategy, Settings];
        const settings = { ...given, closeAtEnd: false };
        const { run } = prepareBacktest(
          strategy,
          settings,
          settings.markets.map((_, k) => casesBars(seed + k * 101, 24)),
        );
        if (run === null) return;
        const dates = datesOf(run);
        if (dates.length < 3) return;
        const date = new Date(dates[at % (dates.length - 1)] * 86_400_000).toISOString().slice(0, 10);
        const sheet = sheetWithChanges(upTo(run, date));
        expect(checkShape(ordersSchema, ordersDocument([{ name: "generated", fingerprint: "x", ...sheet }]))).toEqual([]);
        asked += heldAgainst(run, sheetOf(upTo(run, date))).asked;
      }),
      { numRuns: 200 },
    );
    expect(asked).toBeGreaterThan(10);
  }, 120_000);
});

describe("a sheet", () => {
  it("names the rule with its values, the levels, and the next session", () => {
    const run = daily(crossing);
    const { log, legs } = simulate(run);
    const row = Array.from({ length: log.count }, (_, i) => i).find((i) => i > 10 && log.side[i] === 1)!;
    const { market } = legs[log.leg[row]];
    const signal = market.dates[log.entryRow[row] - 1];
    const sheet = sheetOf(upTo(run, new Date(signal * 86_400_000).toISOString().slice(0, 10)));
    const order = sheet.orders.find((one) => one.symbol === market.spec.symbol && one.purpose === "enter")!;
    const close = market.bars.close[log.entryRow[row] - 1];
    expect(order).toMatchObject({ side: "long", type: "market", price: null, about: true, rule: "close crosses above sma(close, 10)" });
    expect(order.values).toContainEqual({ text: "close", value: close });
    const average = market.bars.close.slice(log.entryRow[row] - 10, log.entryRow[row]).reduce((a, b) => a + b, 0) / 10;
    expect(order.values.find(({ text }) => text === "sma(close, 10)")!.value).toBeCloseTo(average, 9);
    expect(order.target! - close).toBeCloseTo(3 * (close - order.stop!), 9);
    expect(sheet.markets.map(({ symbol }) => symbol)).toEqual(["FERRY", "KELP"]);
    expect(sheet.markets[0].next > sheet.markets[0].last).toBe(true);
    const [line] = orderRows(ordersDocument([{ name: "crossing", fingerprint: "", ...sheet, changes: null }]).sheets);
    expect(line.slice(0, 8)).toEqual(["crossing", "", sheet.orders[0].symbol, expect.any(String), "enter", "long", "market", ""]);
  });

  it("says what changed since the session before: orders that came, went and filled, and levels that moved", () => {
    const trailing = daily({ ...crossing, protect: { trail: { unit: "atr", value: 2 } } });
    const seen = { newOrders: 0, goneOrders: 0, opened: 0, closed: 0, moved: 0 };
    for (const date of datesOf(trailing).slice(60, 160)) {
      const to = new Date(date * 86_400_000).toISOString().slice(0, 10);
      const sheet = sheetWithChanges(upTo(trailing, to));
      expect(sheet.date).toBe(to);
      expect(checkShape(ordersSchema, ordersDocument([{ name: "trailing", fingerprint: "x", ...sheet }]))).toEqual([]);
      expect(sheet.changes!.since < to).toBe(true);
      for (const key of Object.keys(seen) as (keyof typeof seen)[]) seen[key] += sheet.changes![key].length;
      for (const { position, level, before } of sheet.changes!.moved) {
        expect(level).toBe("stop");
        // a trailing stop only ever closes in
        if (before !== null) expect(position.side === "long" ? position.stop! > before : position.stop! < before).toBe(true);
      }
    }
    for (const count of Object.values(seen)) expect(count).toBeGreaterThan(0);
  });

  it("has nothing before it on the first session, and refuses a run that closes at its end", () => {
    const run = daily(crossing);
    const first = new Date(run.clock.dates[0] * 86_400_000).toISOString().slice(0, 10);
    expect(sheetWithChanges(upTo(run, first)).changes).toBeNull();
    const ending = prepareRun(run.members, { ...run.settings, closeAtEnd: true }, run.markets).value!;
    expect(() => sheetOf(ending)).toThrow(/closes at its end/);
  });

  it("keeps members of one account apart", () => {
    const { run } = { run: daily(crossing) };
    const compiled = compileStrategy(run.members[0].compiled.strategy).value!;
    const two = prepareRun(
      ["one", "two"].map((name, i) => ({ name, compiled, markets: [i], weight: 0.5, marketLimit: null })),
      run.settings,
      runMarkets(run.settings, [fixtureBars("data/ferry-1d.csv"), fixtureBars("data/kelp-1d.csv")], compiled.timeframe),
    ).value!;
    const dates = datesOf(two).slice(60, -1);
    const orders = dates
      .filter((_, i) => i % 10 === 0)
      .flatMap((date) => {
        const sheet = sheetOf(upTo(two, new Date(date * 86_400_000).toISOString().slice(0, 10)));
        heldAgainst(two, sheet);
        return sheet.orders;
      });
    expect(orders.every((order) => order.member === (order.symbol === "FERRY" ? "one" : "two"))).toBe(true);
    expect(orders.length).toBeGreaterThan(10);
  });
});
