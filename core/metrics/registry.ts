/** How a figure is shown. Money is account money; `fraction` is shown as percent; `plain` counts and bars are whole or averaged. */
export type MetricUnit = "money" | "percent" | "fraction" | "ratio" | "count" | "bars" | "days" | "r";

export interface MetricEntry {
  label: string;
  unit: MetricUnit;
  definition: string;
  /** whether more is better, less is better, or neither */
  better: "more" | "less" | null;
}

const entry = (label: string, unit: MetricUnit, better: MetricEntry["better"], definition: string): MetricEntry => ({
  label,
  unit,
  better,
  definition,
});

/** Every figure of a report by its key: label, unit, direction, definition. Serves the report, the objective lists and the documentation. */
export const METRICS: Record<string, MetricEntry> = {
  netProfit: entry(
    "Net profit",
    "money",
    "more",
    "Last equity less the starting capital. For long and short: the sum of the trades' net, open ones valued.",
  ),
  netPercent: entry("Net profit", "percent", "more", "Net profit ÷ starting capital."),
  grossProfit: entry("Gross profit", "money", "more", "Sum of the net of all closed winners."),
  grossLoss: entry("Gross loss", "money", "more", "Sum of the net of all closed losers; negative."),
  profitFactor: entry("Profit factor", "ratio", "more", "Gross profit ÷ gross loss; no value without losers."),
  trades: entry("Closed trades", "count", null, "Number of closed trades."),
  openTrades: entry("Open trades", "count", null, "Trades still open at the end, valued at the last close."),
  winners: entry("Winners", "count", null, "Closed trades with a net above 0."),
  losers: entry("Losers", "count", null, "Closed trades with a net below 0."),
  scratches: entry("Scratches", "count", null, "Closed trades with a net of exactly 0."),
  winRate: entry("Win rate", "fraction", "more", "Winners ÷ closed trades."),
  averageTrade: entry("Average trade", "money", "more", "Mean net of the closed trades."),
  averageWin: entry("Average win", "money", "more", "Mean net of the winners."),
  averageLoss: entry("Average loss", "money", "more", "Mean net of the losers; negative."),
  largestWin: entry("Largest win", "money", null, "Largest net of a closed winner."),
  largestLoss: entry("Largest loss", "money", "more", "Largest loss of a closed loser; negative."),
  medianTrade: entry("Median trade", "money", "more", "Median net of the closed trades."),
  payoffRatio: entry("Payoff ratio", "ratio", "more", "Average win ÷ average loss."),
  expectancyR: entry("Expectancy", "r", "more", "Mean of net ÷ money at risk to the initial stop, over closed trades that had a stop."),
  tradeT: entry(
    "t of the mean trade",
    "ratio",
    "more",
    "Mean net ÷ (sample deviation ÷ √n): how far the average trade is from 0 in standard errors.",
  ),
  maxWinRun: entry("Longest run of winners", "count", null, "Most winners in a row, by exit time."),
  maxLossRun: entry("Longest run of losers", "count", "less", "Most losers in a row, by exit time."),
  averageBars: entry("Average bars held", "bars", null, "Mean number of bars from entry to exit."),
  averageBarsWin: entry("Average bars, winners", "bars", null, "Mean number of bars that winners were held."),
  averageBarsLoss: entry("Average bars, losers", "bars", null, "Mean number of bars that losers were held."),
  tradesPerMonth: entry("Trades per month", "ratio", null, "Closed trades ÷ the run's length in months of 365.25/12 days."),
  tradesPerYear: entry("Trades per year", "ratio", null, "Closed trades ÷ the run's length in years of 365.25 days."),
  timeInMarket: entry("Time in market", "fraction", null, "Share of bars with a position open at the close."),
  maxDrawdown: entry("Max drawdown", "money", "less", "Largest fall of the equity from its running peak."),
  maxDrawdownPercent: entry("Max drawdown", "percent", "less", "Largest fall of the equity in percent of its running peak."),
  maxDrawdownClosed: entry("Max drawdown, closed", "money", "less", "Largest fall of the capital plus the net of closed trades."),
  longestDrawdownDays: entry(
    "Longest drawdown",
    "days",
    "less",
    "Longest stretch from a peak to the first bar above it, in calendar days.",
  ),
  timeUnderWater: entry("Time under water", "fraction", "less", "Share of bars with the equity below its peak."),
  ulcer: entry("Ulcer index", "percent", "less", "Square root of the mean squared percent drawdown."),
  profitToDrawdown: entry("Profit ÷ drawdown", "ratio", "more", "Net profit ÷ max drawdown."),
  cagr: entry("CAGR", "percent", "more", "Compound growth per year: (last ÷ capital)^(365.25 ÷ days) − 1."),
  mar: entry("CAGR ÷ drawdown", "ratio", "more", "CAGR ÷ max drawdown in percent."),
  volatility: entry("Volatility", "percent", "less", "Sample deviation of daily returns, annualised."),
  sharpe: entry("Sharpe ratio", "ratio", "more", "Mean ÷ sample deviation of daily returns, annualised, risk-free rate 0."),
  sortino: entry("Sortino ratio", "ratio", "more", "Mean of daily returns ÷ root of the mean squared negative ones, annualised."),
  skew: entry("Skew", "ratio", null, "Skewness of daily returns."),
  kurtosis: entry("Kurtosis", "ratio", null, "Kurtosis of daily returns; 3 is normal."),
  probabilisticSharpe: entry(
    "Probabilistic Sharpe",
    "ratio",
    "more",
    "Probability that the true Sharpe ratio is above 0 (Bailey and López de Prado 2012).",
  ),
  deflatedSharpe: entry(
    "Deflated Sharpe",
    "ratio",
    "more",
    "As the probabilistic Sharpe, against what the best of all trials would show by luck alone (Bailey and López de Prado 2014).",
  ),
  equityR2: entry("Straightness", "ratio", "more", "R² of a straight line through the equity, with the slope's sign."),
  commissions: entry("Commissions", "money", "less", "All commissions."),
  spreadCost: entry("Spread", "money", "less", "Half the spread on every fill; inside the trades' gross."),
  slippageCost: entry("Slippage", "money", "less", "Slippage on market and stop fills; inside the trades' gross."),
  financing: entry("Financing", "money", "less", "Cost of positions held over night."),
  costShare: entry("Costs, share of the profit before costs", "fraction", "less", "All costs ÷ (net profit + all costs)."),
  turnover: entry("Turnover", "money", null, "Sum of the notional of all fills."),
  turnoverPerYear: entry("Turnover per year", "ratio", null, "Turnover ÷ mean equity ÷ years."),
  peakLongExposure: entry(
    "Largest long position",
    "fraction",
    null,
    "Largest notional of one market on the long side ÷ equity, at a close.",
  ),
  peakShortExposure: entry(
    "Largest short position",
    "fraction",
    null,
    "Largest notional of one market on the short side ÷ equity, at a close.",
  ),
  ambiguousBars: entry(
    "Ambiguous bars",
    "count",
    "less",
    "Bars in which both stop and target were in range, so that the fill assumption decided.",
  ),
  benchmarkNetPercent: entry(
    "Holding, net",
    "percent",
    null,
    "Net profit of buying and holding the benchmark with all the capital, in percent.",
  ),
  benchmarkCagr: entry("Holding, CAGR", "percent", null, "Compound growth per year of holding the benchmark."),
  benchmarkMaxDrawdownPercent: entry("Holding, max drawdown", "percent", null, "Largest fall of holding the benchmark, in percent."),
  beta: entry("Beta", "ratio", null, "Slope of the daily returns against the benchmark's."),
  alpha: entry("Alpha", "percent", "more", "What the daily returns hold beyond beta times the benchmark's, per year."),
  correlation: entry("Correlation with holding", "ratio", null, "Correlation of the daily returns with the benchmark's."),
};

export const METRIC_KEYS: readonly string[] = Object.keys(METRICS);

/** Each key's place in METRIC_KEYS. */
export const METRIC_INDEX: Readonly<Record<string, number>> = Object.fromEntries(METRIC_KEYS.map((key, i) => [key, i]));

/** Figures that rest on the trades alone: they need no equity at every close, and are much quicker to have. */
export const TRADE_METRICS: ReadonlySet<string> = new Set([
  ...METRIC_KEYS.slice(0, METRIC_KEYS.indexOf("timeInMarket") + 1),
  ...["maxDrawdownClosed", "commissions", "spreadCost", "slippageCost", "financing", "costShare", "turnover", "ambiguousBars"],
]);
