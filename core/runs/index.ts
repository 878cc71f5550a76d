export * from "./result";
export * from "./backtest";
export * from "./look-ahead";
export * from "./why";
export * from "./compare-results";
