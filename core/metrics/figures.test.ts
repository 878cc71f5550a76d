import { describe, expect, it } from "vitest";
import { readSettings, readStrategy } from "#core/documents";
import { simulate } from "#core/engine";
import { prepareBacktest } from "#core/runs";
import { fixtureBars, fixtureJson } from "#core/testing/fixtures";
import { METRIC_KEYS, TRADE_METRICS, wholeFigures } from ".";

const at = "research/01-two-averages";
const settings = readSettings(fixtureJson(`${at}/settings.json`)).value!;
const bars = settings.markets.map((market) => fixtureBars(`${at}/${market.bars}`));

describe("the figures of trades alone", () => {
  for (const stepwise of [false, true])
    it(`are the same without an equity at every close (${stepwise ? "general" : "short"} way), and no others are given`, () => {
      const { run } = prepareBacktest(readStrategy(fixtureJson(`${at}/strategy.json`)).value!, settings, bars);
      const whole = wholeFigures(simulate(run!, { stepwise }));
      const quick = wholeFigures(simulate(run!, { stepwise, equity: false }), "trades");
      METRIC_KEYS.forEach((key, i) => expect([key, quick[i]]).toEqual([key, TRADE_METRICS.has(key) ? whole[i] : NaN]));
      expect(quick[METRIC_KEYS.indexOf("trades")]).toBeGreaterThan(10);
    });
});
