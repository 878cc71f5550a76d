import { METRIC_KEYS } from "#core/metrics";

/** The figures that decide come first. */
export const KEY_METRICS = [
  "netProfit",
  "profitFactor",
  "trades",
  "winRate",
  "payoffRatio",
  "averageTrade",
  "expectancyR",
  "tradeT",
  "maxDrawdown",
  "maxDrawdownPercent",
  "profitToDrawdown",
  "cagr",
  "sharpe",
];

/** Then all others. */
export const OTHER_METRICS = METRIC_KEYS.filter((key) => !KEY_METRICS.includes(key));
export const REPORT_KEYS = [...KEY_METRICS, ...OTHER_METRICS];
