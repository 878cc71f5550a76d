import { describe, expect, it } from "vitest";
import { readSettings, readStrategy } from "#core/documents";
import { compareResult } from "#core/testing/compare";
import { fixtureBars, fixtureFolders, fixtureJson } from "#core/testing/fixtures";
import { backtest } from ".";

/** Not covered yet, by name: what these cases use is refused today with a clear message. */
const NOT_YET = new Set([
  "03-stop-entries-and-gaps",
  "04-limit-entries-through",
  "07-stop-and-target-atr-path",
  "08-entry-bar-pessimistic",
  "09-entry-bar-optimistic",
  "10-price-levels-wrong-side",
  "11-trail-and-breakeven",
  "22-session-exit-across-summer-time",
  "23-weekday-exit",
  "24-daily-values-on-intraday",
  "25-another-market",
  "26-fine-bars",
  "27-bracket",
  "32-limit-default-through",
  "37-close-drops-working-orders",
  "38-holidays-and-early-closes-exit-at",
  "39-holidays-and-early-closes-weekday",
  "40-follow-stop",
  "43-percent-trail-of-the-best-price",
  "44-path-trail-after-the-fill",
  "46-exit-at-cancels-working-entries",
  "47-round-to-tick-orders-and-levels",
  "54-ignore-orders-already-touched",
]);

function run(folder: string) {
  const at = `backtests/${folder}`;
  const strategy = readStrategy(fixtureJson(`${at}/strategy.json`));
  const settings = readSettings(fixtureJson(`${at}/settings.json`));
  expect(strategy.problems).toEqual([]);
  expect(settings.problems).toEqual([]);
  const bars = settings.value!.markets.map((market) => fixtureBars(`${at}/${market.bars}`));
  return backtest(strategy.value!, settings.value!, bars);
}

describe("backtests with known results", () => {
  const folders = fixtureFolders("backtests");
  for (const folder of folders.filter((f) => !NOT_YET.has(f)))
    it(folder, () => {
      const { result, problems } = run(folder);
      expect(problems).toEqual([]);
      compareResult(result!, fixtureJson(`backtests/${folder}/expected.json`));
    });

  for (const folder of folders.filter((f) => NOT_YET.has(f)))
    it(`${folder} is refused, not computed wrongly`, () => {
      const { problems } = run(folder);
      expect(problems.length).toBeGreaterThan(0);
      for (const problem of problems) expect(problem.message).toMatch(/in this version of Canyon yet/);
    });
});
