import type { DocumentProblem, Settings, Strategy } from "#core/documents";
import type { StretchRow, Weighting } from "#core/portfolio";
import type { Condition } from "#core/regimes";

/** A portfolio asked of the browser's worker. Bars are named by hash. */
export interface PortfolioRequest {
  id: number;
  members: { name: string; strategy: Strategy; markets: string[]; weight: number; marketLimit?: number; condition?: Condition }[];
  settings: Settings;
  weighting: Weighting;
}

/** What the page shows of it. Times in epoch milliseconds, equity and profits in money. */
export interface LivePortfolio {
  times: Float64Array;
  equity: Float64Array;
  weights: number[];
  /** how often the weights were estimated anew along the way */
  refits: number;
  profits: number[];
  figures: StretchRow;
  estimated: StretchRow | null;
  judged: StretchRow | null;
  /** milliseconds of computation */
  took: number;
}

export type PortfolioAnswer = { id: number } & ({ view: LivePortfolio; problems: [] } | { view: null; problems: DocumentProblem[] });
