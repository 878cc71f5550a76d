import { describe, expect, it } from "vitest";
import { DAY, emptyBars, MarketCalendar, MINUTE, type Bars } from "#core/bars";
import { readSettings, readStrategy } from "#core/documents";
import { backtest } from "#core/runs";
import { clockMarks, EXIT_WEEKDAY, LATE_WEEKDAY } from "./time-exits";

/** Bars of open, high, low, close from Monday, 1 January 2024. */
function barsOf(step: number, ...rows: [number, number, number, number][]): Bars {
  const bars = emptyBars(rows.length);
  rows.forEach(([open, high, low, close], i) => {
    bars.time[i] = Date.UTC(2024, 0, 1) + i * step;
    bars.open[i] = open;
    bars.high[i] = high;
    bars.low[i] = low;
    bars.close[i] = close;
  });
  return bars;
}

function run(strategy: object, bars: Bars, settings: object = {}, timeframe = "1d") {
  const read = readStrategy({ format: "canyon.strategy/1", timeframe, sizing: { mode: "units", value: 1 }, ...strategy });
  const given = readSettings({
    format: "canyon.settings/1",
    capital: 10_000,
    markets: [{ symbol: "X", bars: "x", timeframe: bars.time[1] - bars.time[0] === DAY ? "1d" : "5m", tick: 1 }],
    ...settings,
  });
  const { result, problems } = backtest(read.value!, given.value!, [bars]);
  expect([read.problems, given.problems, problems]).toEqual([[], [], []]);
  return result!;
}

describe("cases that seldom come by themselves", () => {
  it("an account that fell below its limit at a close is halted at the next one, without a signal there", () => {
    // in and out at one close: the spread is beyond the stop
    const bars = barsOf(DAY, [100, 100, 100, 100], [100, 110, 100, 110], [110, 110, 110, 110], [110, 110, 110, 110]);
    const { events, halted } = run(
      {
        long: { enter: { when: "close > open", order: { type: "market", at: "sameClose" } } },
        protect: { stop: { unit: "points", value: 1 } },
        sizing: { mode: "units", value: 10 },
      },
      bars,
      { costs: { spreadTicks: 20 }, haltBelowPercent: 99, capital: 10_000 },
    );
    expect(halted).toBe(true);
    expect(events.filter(({ kind }) => kind === "halt").map(({ time }) => time)).toEqual(["2024-01-03T00:00:00.000Z"]);
  });

  it("an order that the open touched against an open position may fill in a later fine bar", () => {
    const bars = barsOf(
      5 * MINUTE,
      [100, 100, 100, 100],
      [100, 100, 100, 100],
      [100, 103, 100, 103],
      [103, 103, 101, 101],
      [98, 107, 98, 104],
      [104, 104, 97, 98],
    );
    const { trades } = run(
      {
        long: { enter: { when: "endTime = 00:10", order: { type: "stop", price: "close + 2", workingBars: 5 } } },
        short: { enter: { when: "endTime = 00:10", order: { type: "stop", price: "close - 1", workingBars: 5 } } },
        protect: { target: { unit: "points", value: 4 } },
        onOpposite: "ignore",
      },
      bars,
      { fineTimeframe: "5m" },
      "10m",
    );
    expect(trades.map(({ side, entryPrice, exitReason }) => [side, entryPrice, exitReason])).toEqual([
      ["long", 102, "target"],
      ["short", 99, null],
    ]);
  });

  it("a stop that follows a formula closes in and never loosens", () => {
    const bars = barsOf(DAY, [100, 101, 95, 100], [100, 106, 99, 105], [105, 109, 98.5, 108], [108, 108, 98.7, 99]);
    const { trades } = run(
      { long: { enter: { when: "close = 100" } }, protect: { stop: { unit: "price", value: "low", follow: true } } },
      bars,
    );
    // 95 at the signal, 99 after the first bar, and still 99 after a lower low of 98.5 that did not come to it in time
    expect(trades[0]).toMatchObject({ exitReason: "stop", exitPrice: 99, exitTime: "2024-01-03T00:00:00.000Z" });
    const loose = barsOf(DAY, [100, 101, 95, 100], [100, 106, 99, 105], [105, 109, 100, 108], [108, 108, 99.5, 100], [100, 100, 96, 96]);
    const falling = run(
      {
        long: { enter: { when: "close = 100 and barsHeld > 99 or close = 100" } },
        protect: { stop: { unit: "price", value: "low - 1", follow: true } },
        entriesAtOnce: 1,
      },
      loose,
    );
    expect(falling.trades[0]).toMatchObject({ exitReason: "stop", exitPrice: 99, exitTime: "2024-01-05T00:00:00.000Z" });
  });

  it("past the time of an exit no entry fills at the same close, not even at the session's last bar", () => {
    const bars = barsOf(DAY, [100, 101, 99, 100], [100, 106, 99, 105], [105, 109, 100, 108]);
    const exits = { protect: { exitAt: "12:00" } };
    expect(run({ long: { enter: { when: "close > 1", order: { type: "market", at: "sameClose" } } }, ...exits }, bars).trades).toEqual([]);
    expect(
      run({ long: { enter: { when: "close > 1" } }, ...exits }, bars).trades.map(({ exitReason, bars: held }) => [exitReason, held]),
    ).toEqual([
      ["time", 0],
      ["time", 0],
    ]);
  });

  it("a week without a bar is missed, also after one whose exit was met", () => {
    const bars = emptyBars(3);
    // Friday, then the Monday after next
    bars.time.set([Date.UTC(2024, 0, 4), Date.UTC(2024, 0, 5), Date.UTC(2024, 0, 15)]);
    const dates = bars.time.map((time) => time / DAY);
    const { bits } = clockMarks(
      bars,
      dates,
      new MarketCalendar(null),
      { unit: "day", count: 1 },
      { time: null, weekday: { weekday: 5, time: 960 } },
    );
    expect([...bits].map((bit) => bit & (EXIT_WEEKDAY | LATE_WEEKDAY))).toEqual([0, EXIT_WEEKDAY, LATE_WEEKDAY]);
  });
});
