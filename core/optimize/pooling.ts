import { METRIC_INDEX, METRIC_KEYS, METRICS } from "#core/metrics";

/** How the markets of a search are taken: together on one account, or each by itself with one figure made of theirs. */
export type Pooling = "together" | "sum" | "median" | "worst";

export const POOLINGS: readonly Pooling[] = ["together", "sum", "median", "worst"];

/** Figures that add up over markets which are traded each by itself. */
const ADDING = [
  ...["netProfit", "netPercent", "grossProfit", "grossLoss", "trades", "openTrades", "winners", "losers", "scratches"],
  ...["tradesPerMonth", "tradesPerYear", "commissions", "spreadCost", "slippageCost", "financing", "turnover", "ambiguousBars"],
];

/** Figures that follow from those that add up. */
const FOLLOWING: Readonly<Record<string, (sum: (key: string) => number) => number>> = {
  profitFactor: (sum) => -sum("grossProfit") / sum("grossLoss"),
  winRate: (sum) => sum("winners") / sum("trades"),
  averageTrade: (sum) => (sum("grossProfit") + sum("grossLoss")) / sum("trades"),
  averageWin: (sum) => sum("grossProfit") / sum("winners"),
  averageLoss: (sum) => sum("grossLoss") / sum("losers"),
};

/** Figures that a way of pooling has. */
export const pooledMetrics = (pooling: Pooling): ReadonlySet<string> =>
  new Set(pooling === "sum" ? [...ADDING, ...Object.keys(FOLLOWING)] : METRIC_KEYS);

/**
 * One figure of each kind out of those of the markets, in the order of METRIC_KEYS; NaN where there is none. `sum`: what adds
 * up, and the ratios that follow from it; `worst`: the least of what more is better of (and of what is neither), else the
 * most; `median`: a market without a value stands at the bad end, since it did nothing to be counted among the good.
 */
export function poolFigures(each: readonly Float64Array[], pooling: Exclude<Pooling, "together">): Float64Array {
  const out = new Float64Array(METRIC_KEYS.length).fill(NaN);
  if (pooling === "sum") {
    const sum = (key: string) => each.reduce((total, figures) => total + figures[METRIC_INDEX[key]], 0);
    for (const key of ADDING) out[METRIC_INDEX[key]] = sum(key);
    for (const [key, follow] of Object.entries(FOLLOWING)) {
      const value = follow(sum);
      out[METRIC_INDEX[key]] = Number.isFinite(value) ? value : NaN;
    }
    return out;
  }
  METRIC_KEYS.forEach((key, k) => {
    const bad = METRICS[key].better === "less" ? Infinity : -Infinity;
    const values = each.map((figures) => (Number.isNaN(figures[k]) ? bad : figures[k])).sort((a, b) => a - b);
    const { length } = values;
    const value =
      pooling === "worst"
        ? values[bad === Infinity ? length - 1 : 0]
        : (values[Math.floor((length - 1) / 2)] + values[Math.floor(length / 2)]) / 2;
    out[k] = Number.isFinite(value) ? value : NaN;
  });
  return out;
}
