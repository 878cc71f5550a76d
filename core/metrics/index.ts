export * from "./registry";
export * from "./compute";
export * from "./tables";
export * from "./statistics";
export * from "./returns";
export { benchmarkEquity } from "./benchmark";
export { drawdowns, cagrOf, probabilisticSharpe } from "./equity-metrics";
export { closedByExit, riskOf } from "./trade-metrics";
export { recomputeMetrics } from "./recompute";
