export * from "./problem";
export * from "./syntax";
export { parseRule, isKeyword, MAX_DEPTH, MAX_LENGTH } from "./parse";
export * from "./format";
export * from "./formula";
export * from "./check";
export * from "./evaluate";
export * from "./warmup";
export { EXTRA, FUNCTIONS, SERIES, SERIES_NAMES, LATER_NAMES, type FunctionEntry } from "./registry";
