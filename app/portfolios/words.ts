import type { StretchRow } from "#core/portfolio";

/** Names of the figures that portfolios are compared by, and what they mean. */
export const FIGURE_WORDS: Record<keyof StretchRow, { name: string; about: string }> = {
  netPercent: { name: "net, %", about: "change of the equity over the stretch" },
  cagr: { name: "CAGR, %", about: "growth a year, as if it had been the same every year" },
  volatility: { name: "volatility, %", about: "deviation of the daily returns, as a year has it" },
  sharpe: { name: "Sharpe", about: "mean of the daily returns ÷ their deviation, as a year has it" },
  maxDrawdownPercent: { name: "drawdown, %", about: "deepest fall from a peak of the stretch" },
  profitToDrawdown: { name: "profit ÷ drawdown", about: "change in money ÷ deepest fall in money" },
};
