import { describe, expect, it } from "vitest";
import { readSettings, readStrategy, type Settings } from "#core/documents";
import { compileStrategy } from "#core/engine";
import { METRIC_KEYS } from "#core/metrics";
import { backtest } from "#core/runs";
import { fixtureBars, fixtureJson } from "#core/testing/fixtures";
import { equityAt, figuresAt, metricsRecord, poolFigures, prepareRuns, type Search } from ".";

const at = "research/01-two-averages";
const strategy = readStrategy(fixtureJson(`${at}/strategy.json`)).value!;
const settings: Settings = { ...readSettings(fixtureJson(`${at}/settings.json`)).value!, benchmark: null };
const compiled = compileStrategy(strategy).value!;
const [market] = settings.markets;
const [bars] = settings.markets.map((one) => fixtureBars(`${at}/${one.bars}`));
const search: Search = { vary: [], objective: [{ metric: "netProfit", want: "more", weight: 1 }], limits: [] };
/** The same market from a later bar on, as if it were another. */
const later = Object.fromEntries(
  Object.entries(bars).map(([key, column]) => [key, typeof column === "number" ? column - 200 : (column as Float64Array).slice(200)]),
) as unknown as typeof bars;
const two: Settings = { ...settings, markets: [market, { ...market, symbol: "OTHER" }] };

describe("a strategy under any values, taken as a search's trials are", () => {
  const alone = backtest(strategy, settings, [bars]).result!;

  it("has the figures and the equity of its backtest", () => {
    const runs = prepareRuns(compiled, { settings, search }, [bars]);
    expect(metricsRecord(figuresAt(compiled, runs, search))).toEqual(alone.metrics.all);
    expect([...equityAt(compiled, runs).equity]).toEqual(alone.equity.equity);
    const [name] = Object.keys(compiled.values);
    const changed = { ...strategy, parameters: strategy.parameters!.map((one) => (one.name === name ? { ...one, value: 7 } : one)) };
    expect(metricsRecord(figuresAt(compiled, runs, search, { [name]: 7 }))).toEqual(
      backtest(changed, settings, [bars]).result!.metrics.all,
    );
  });

  it("has what its markets' backtests come to where each is taken by itself", () => {
    const apart: Search = { ...search, pooling: "worst" };
    const runs = prepareRuns(compiled, { settings: two, search: apart }, [bars, later]);
    const other = backtest(strategy, { ...settings, markets: [two.markets[1]] }, [later]).result!;
    const each = [alone, other].map((one) => Float64Array.from(METRIC_KEYS, (key) => one.metrics.all[key] ?? NaN));
    expect(metricsRecord(figuresAt(compiled, runs, apart))).toEqual(metricsRecord(poolFigures(each, "worst")));
    const { equity } = equityAt(compiled, runs);
    const last = (curve: ArrayLike<number>) => curve[curve.length - 1];
    expect(last(equity)).toBeCloseTo(last(alone.equity.equity) + last(other.equity.equity) - settings.capital, 6);
    // before the other begins, what the first one made is all there is
    expect(equity[100]).toBeCloseTo(alone.equity.equity[100], 9);
  });
});
