import { describe, expect, it } from "vitest";
import { readSettings, readStrategy } from "#core/documents";
import { compareResult } from "#core/testing/compare";
import { fixtureBars, fixtureFolders, fixtureJson } from "#core/testing/fixtures";
import { backtest } from ".";

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
  for (const folder of folders)
    it(folder, () => {
      const { result, problems } = run(folder);
      expect(problems).toEqual([]);
      compareResult(result!, fixtureJson(`backtests/${folder}/expected.json`));
    });
});
