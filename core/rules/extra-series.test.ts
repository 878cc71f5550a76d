import { describe, expect, it } from "vitest";
import { DAY, emptyBars, marketSpec, parseTimeframe, type DatedSeries } from "#core/bars";
import { readSettings, readStrategy } from "#core/documents";
import { runMarket } from "#core/engine";
import { backtest } from "#core/runs";
import { checkRule, formatRule, nameFault, parseRule } from ".";

const bars = emptyBars(6);
for (let i = 0; i < 6; i++) {
  bars.time[i] = Date.UTC(2024, 0, 1) + i * DAY;
  bars.open[i] = bars.high[i] = bars.low[i] = bars.close[i] = 100 + i;
}
const at = (day: number, hours = 0) => Date.UTC(2024, 0, day, hours);
const backlog: DatedSeries = { time: [at(2), at(4, 15), at(5, 20)], value: [10, 20, 30] };

function column(rule: string, session: { zone: string; open: string; close: string; days: number[] } | null) {
  const daily = parseTimeframe("1d")!;
  const market = runMarket({ ...marketSpec({ symbol: "X", session }), series: { backlog } }, bars, daily, daily);
  return Array.from(market.store.column(checkRule(rule).formula!, {}));
}

describe('series("name")', () => {
  it("is the last value whose date is not after the bar's end", () => {
    expect(column('series("backlog")', null)).toEqual([10, 10, 10, 20, 30, 30]);
    // a session that closes at 16:00 has ended before the value of 20:00, and after that of 15:00
    const session = { zone: "UTC", open: "08:00", close: "16:00", days: [1, 2, 3, 4, 5, 6, 7] };
    expect(column('series("backlog")', session)).toEqual([NaN, 10, 10, 20, 20, 30]);
    expect(column('series("backlog") > series("backlog") 1 back', null)).toEqual([0, 0, 0, 1, 1, 0]);
    expect(column('sma(series("backlog"), 2)', null)).toEqual([NaN, 10, 10, 15, 25, 30]);
  });

  it("is read, formatted and refused in a trader's words", () => {
    const parsed = parseRule('series( "backlog" )>3');
    expect(formatRule(parsed.tree!)).toBe('series("backlog") > 3');
    const message = (rule: string, known?: string[]) =>
      checkRule(rule, { parameters: new Map(), definitions: new Map(), values: {}, known }).problems[0]?.message;
    expect(message("series(close)")).toContain("name of an extra series in quotes");
    expect(message('series("my backlog")')).toContain("can't be the name");
    expect(message('series("backlok")', ["backlog"])).toContain("did you mean “backlog”");
    expect(message('series("backlog").upper')).toContain("in quotes");
    expect(message("series > 3")).toContain('as in series("backlog")');
    expect(message("close > series")).toContain('as in series("backlog")');
    for (let cut = 0; cut < 26; cut++) expect(() => checkRule('series("backlog") > sma(c'.slice(0, cut))).not.toThrow();
    expect(nameFault("series")).toContain("is a function");
  });

  it("belongs to the market: a run without it is refused, a run with it knows nothing early", () => {
    const strategy = readStrategy({
      format: "canyon.strategy/1",
      timeframe: "1d",
      long: { enter: { when: 'series("backlog") > 15' } },
      sizing: { mode: "units", value: 1 },
    }).value!;
    const settings = (series?: unknown) =>
      readSettings({ format: "canyon.settings/1", capital: 1000, markets: [{ symbol: "X", bars: "x", timeframe: "1d", series }] });
    const without = backtest(strategy, settings().value!, [bars]);
    expect(without.problems).toMatchObject([
      { in: "settings", path: "markets[0].series", message: expect.stringContaining("no extra series “backlog”") as string },
    ]);
    const { result } = backtest(strategy, settings({ backlog }).value!, [bars]);
    expect(result!.trades).toMatchObject([{ entryTime: "2024-01-05T00:00:00.000Z" }]);
    const other = backtest(strategy, settings({ backlog: { ...backlog, value: [10, 20, 31] } }).value!, [bars]);
    expect(other.result!.fingerprint).not.toBe(result!.fingerprint);
    for (const wrong of [
      { backlog: { time: [2, 1], value: [1, 2] } },
      { backlog: { time: [1], value: [] } },
      { "a b": "x.csv" },
      [],
      { backlog: 3 },
    ])
      expect(settings(wrong).problems[0]?.message ?? "", JSON.stringify(wrong)).toContain("times and values");
  });
});
