import type { Metrics } from "#core/documents";

/** Which other figures go into a figure, by its key; what is left out rests on the trades, the equity or the bars themselves. */
export const METRIC_PARTS: Readonly<Record<string, readonly string[]>> = {
  netProfit: ["grossProfit", "grossLoss", "openTrades"],
  netPercent: ["netProfit"],
  grossProfit: ["winners", "averageWin"],
  grossLoss: ["losers", "averageLoss"],
  profitFactor: ["grossProfit", "grossLoss"],
  trades: ["winners", "losers", "scratches"],
  winRate: ["winners", "trades"],
  averageTrade: ["grossProfit", "grossLoss", "trades"],
  averageWin: ["grossProfit", "winners"],
  averageLoss: ["grossLoss", "losers"],
  payoffRatio: ["averageWin", "averageLoss"],
  tradeT: ["averageTrade", "trades"],
  averageBars: ["averageBarsWin", "averageBarsLoss"],
  tradesPerMonth: ["trades"],
  tradesPerYear: ["trades"],
  profitToDrawdown: ["netProfit", "maxDrawdown"],
  cagr: ["netPercent"],
  mar: ["cagr", "maxDrawdownPercent"],
  sharpe: ["volatility"],
  sortino: ["sharpe"],
  probabilisticSharpe: ["sharpe", "skew", "kurtosis"],
  deflatedSharpe: ["sharpe", "skew", "kurtosis"],
  costShare: ["commissions", "spreadCost", "slippageCost", "financing", "netProfit"],
  turnoverPerYear: ["turnover"],
  alpha: ["beta", "benchmarkCagr"],
};

const NO_TRADE = "no trade was closed";
const NO_WINNER = "no trade was won";
const NO_LOSER = "no trade was lost";
const WHOLE = "it is a figure of the whole account, not of one side's trades";
const NO_FALL = "the equity never fell";
const GONE = "nothing was left of the account at the end";
const LEVEL = "the account had no two different returns, or was worth nothing on some day";
const HELD = "the run has no benchmark, or its first price was none";

/** Figures that only the whole run has. */
const OF_ACCOUNT = new Set([
  ...["timeInMarket", "maxDrawdown", "maxDrawdownPercent", "maxDrawdownClosed", "longestDrawdownDays", "timeUnderWater", "ulcer"],
  ...["profitToDrawdown", "cagr", "mar", "volatility", "sharpe", "sortino", "skew", "kurtosis", "probabilisticSharpe", "deflatedSharpe"],
  ...["equityR2", "commissions", "spreadCost", "slippageCost", "financing", "costShare", "turnover", "turnoverPerYear"],
  ...["peakLongExposure", "peakShortExposure", "ambiguousBars", "benchmarkNetPercent", "benchmarkCagr", "benchmarkMaxDrawdownPercent"],
  ...["beta", "alpha", "correlation"],
]);

const OF_WINNERS = new Set(["averageWin", "largestWin", "averageBarsWin"]);
const OF_LOSERS = new Set(["averageLoss", "largestLoss", "averageBarsLoss", "profitFactor"]);
const OF_TRADES = new Set(["winRate", "averageTrade", "medianTrade", "averageBars", "payoffRatio", "tradeT", "expectancyR"]);
const OF_RETURNS = new Set(["volatility", "sharpe", "skew", "kurtosis", "probabilisticSharpe"]);
const OF_BENCHMARK = new Set(["benchmarkNetPercent", "benchmarkCagr", "benchmarkMaxDrawdownPercent", "beta", "alpha", "correlation"]);

/** Why a figure that is `null` has no value. `part`: of which trades the figures are. */
export function whyMissing(key: string, figures: Metrics, part: "all" | "long" | "short"): string {
  if (part !== "all" && OF_ACCOUNT.has(key)) return WHOLE;
  if ((OF_TRADES.has(key) || OF_WINNERS.has(key) || OF_LOSERS.has(key)) && !(figures.trades! > 0)) return NO_TRADE;
  if (OF_WINNERS.has(key)) return NO_WINNER;
  if (OF_LOSERS.has(key)) return NO_LOSER;
  if (key === "payoffRatio") return figures.winners === 0 ? NO_WINNER : NO_LOSER;
  if (key === "expectancyR") return "no closed trade had a stop";
  if (key === "tradeT") return figures.trades === 1 ? "one trade alone has no spread" : "all trades came to the same";
  if (key === "profitToDrawdown") return NO_FALL;
  if (key === "cagr") return GONE;
  if (key === "mar") return figures.cagr === null ? GONE : NO_FALL;
  if (key === "sortino") return figures.sharpe === null ? LEVEL : "no return was below 0";
  if (OF_RETURNS.has(key)) return LEVEL;
  if (key === "deflatedSharpe") return "it needs the ledger's count of trials; “Is it luck?” has it";
  if (key === "equityR2") return "the equity did not move";
  if (key === "costShare") return "there is no profit before costs that they could be a share of";
  if (key === "turnoverPerYear") return "the mean equity is not above 0";
  if (OF_BENCHMARK.has(key)) return figures.benchmarkNetPercent === null ? HELD : LEVEL;
  return "it can't be computed from this run";
}
