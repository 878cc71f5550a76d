import { bareStrategy, hashOf, type Settings, type Strategy } from "#core/documents";
import { symbolsOf } from "#core/settings";

/** What the ledger counts of a try: the same strategy under the same settings is one trial, however often it is looked at. */
export interface CountedTry {
  hash: string;
  /** symbols with commas */
  markets: string;
  from: string | null;
  to: string | null;
}

/** The settings without what only names data, so that equal tries have equal texts. */
const bareSettings = (settings: Settings) => ({
  ...settings,
  markets: settings.markets.map(({ series: _series, ...market }) => market),
});

/** How a try is counted. */
export const countedOf = (strategy: Strategy, settings: Settings): CountedTry => ({
  hash: hashOf([bareStrategy(strategy), bareSettings(settings)]),
  markets: symbolsOf(settings),
  from: settings.from,
  to: settings.to,
});
