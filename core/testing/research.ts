import { dirname, join } from "node:path";
import { readSettings, readStrategy, type Settings, type Strategy } from "#core/documents";
import type { Bars } from "#core/bars";
import { fixtureBars, fixtureJson } from "./fixtures";

/** The documents that a plan holds or names, with their bars. */
export function planParts(at: string): {
  plan: ReturnType<typeof fixtureJson>;
  expected: ReturnType<typeof fixtureJson>;
  strategy: Strategy;
  settings: Settings;
  bars: Bars[];
} {
  const plan = fixtureJson(`${at}/plan.json`);
  const named = (given: unknown): [document: unknown, folder: string] =>
    typeof given === "string" ? [fixtureJson(join(at, given)), dirname(join(at, given))] : [given, at];
  const [settingsText, folder] = named(plan.settings);
  const settings = readSettings(settingsText).value!;
  return {
    plan,
    expected: fixtureJson(`${at}/expected.json`),
    strategy: plan.strategy === undefined ? (null as never) : readStrategy(named(plan.strategy)[0]).value!,
    settings,
    bars: settings.markets.map((market) => fixtureBars(join(folder, market.bars))),
  };
}
