import type { Settings } from "#core/documents";
import type { Weighting } from "#core/portfolio";
import type { Condition } from "#core/regimes";

/** A version of a strategy as a portfolio holds it. */
export interface PortfolioMember {
  versionId: number;
  name: string;
  markets: string[];
  weight: number;
  marketLimit?: number;
  /** switches the member on and off */
  condition?: Condition;
}

/** What a portfolio is: members, what they run under, how their weights come about. */
export interface PortfolioDocument {
  members: PortfolioMember[];
  settings: Settings;
  weighting: Weighting;
}

/** Documents of before 0.8.0 say nothing of how weights come about: they were given. */
export const portfolioDocument = (text: string): PortfolioDocument => ({
  weighting: { mode: "given" },
  ...(JSON.parse(text) as Omit<PortfolioDocument, "weighting">),
});
