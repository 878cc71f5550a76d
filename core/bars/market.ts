/** Opening hours of a market. Times are local to `zone`; `days` are ISO weekdays of session dates. */
export interface Session {
  zone: string;
  open: string;
  close: string;
  days: number[];
  holidays?: string[];
  earlyCloses?: Record<string, string>;
}

export type MarginRule = { mode: "fraction" | "perUnit"; value: number };

/** What a backtest needs to know of an instrument beside its bars. */
export interface MarketSpec {
  symbol: string;
  /** smallest price step */
  tick: number;
  /** account money per 1.0 of price per unit */
  pointValue: number;
  unitStep: number;
  minUnits: number;
  margin: MarginRule;
  session: Session | null;
}

/** A specification with every default filled in. */
export function marketSpec(given: Partial<MarketSpec> & { symbol: string }): MarketSpec {
  const unitStep = given.unitStep ?? 1;
  return {
    symbol: given.symbol,
    tick: given.tick ?? 0.01,
    pointValue: given.pointValue ?? 1,
    unitStep,
    minUnits: given.minUnits ?? unitStep,
    margin: given.margin ?? { mode: "fraction", value: 1 },
    session: given.session ?? null,
  };
}
