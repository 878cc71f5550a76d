export * from "./result";
export * from "./backtest";
