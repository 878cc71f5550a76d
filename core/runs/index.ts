export * from "./result";
export * from "./backtest";
export * from "./look-ahead";
