import { entryMoment, type Metrics, type Settings, type Trade } from "#core/documents";

/** A trade as it can be told again in another run: where, which way, and when it began. */
const same = (trade: Trade): string => `${trade.symbol} ${trade.side} ${entryMoment(trade)}`;

/** Trades that only one of two runs took, and how many both did. */
export interface TradeDifference {
  both: number;
  onlyFirst: Trade[];
  onlySecond: Trade[];
}

/** Compares two lists of trades by market, side and the bar of the entry. */
export function tradeDifference(first: readonly Trade[], second: readonly Trade[]): TradeDifference {
  const [a, b] = [new Set(first.map(same)), new Set(second.map(same))];
  const onlyFirst = first.filter((trade) => !b.has(same(trade)));
  return { both: first.length - onlyFirst.length, onlyFirst, onlySecond: second.filter((trade) => !a.has(same(trade))) };
}

/** Whether two values of a figure differ by more than a tenth of the larger one: what is worth a look among many. */
export function differsMuch(one: number | null, other: number | null): boolean {
  if (one === null || other === null) return one !== other;
  return Math.abs(one - other) > 0.1 * Math.max(Math.abs(one), Math.abs(other));
}

/** Figures of several runs as rows, each with whether any run differs much from the first. */
export const figureRows = (
  keys: readonly string[],
  runs: readonly Metrics[],
): { key: string; values: (number | null)[]; much: boolean[] }[] =>
  keys.map((key) => {
    const values = runs.map((metrics) => metrics[key] ?? null);
    return { key, values, much: values.map((value) => differsMuch(values[0], value)) };
  });

/** What run settings say, by readable names, to be set against others. Bars by the beginning of their hash. */
export function settingsFacts(settings: Settings): Map<string, string> {
  const { costs } = settings;
  return new Map(
    Object.entries({
      markets: settings.markets.map((market) => `${market.symbol} ${market.timeframe}`).join(", "),
      bars: settings.markets.map((market) => market.bars.slice(0, 8)).join(", "),
      dates: `${settings.from ?? "start"} to ${settings.to ?? "end"}`,
      capital: String(settings.capital),
      leverage: String(settings.leverage),
      "markets at once": String(settings.marketLimit ?? "no limit"),
      "without enough margin": settings.onLackOfMargin,
      "fee per unit": String(costs.perUnit),
      "fee per order": String(costs.perOrder),
      "fee, % of value": String(costs.percent),
      "least per fill": String(costs.minimum),
      "spread, ticks": String(costs.spreadTicks),
      "slippage, ticks": String(costs.slippageTicks),
      "financing, % a year": `${costs.financingLongPercent} long, ${costs.financingShortPercent} short`,
      "inside a bar": settings.intrabar + (settings.fineTimeframe === null ? "" : `, ${settings.fineTimeframe} bars`),
      "halt below": `${settings.haltBelowPercent} %`,
      "at the end": settings.closeAtEnd ? "closed" : "left open",
      "prices of fills": settings.roundToTick ? "on ticks" : "as computed",
    }),
  );
}

/** What differs between two run settings, thing by thing. */
export function settingsDifference(before: Settings, now: Settings): { what: string; before: string | null; now: string | null }[] {
  const [old, fresh] = [settingsFacts(before), settingsFacts(now)];
  return [...old].filter(([what, says]) => fresh.get(what) !== says).map(([what, says]) => ({ what, before: says, now: fresh.get(what)! }));
}
