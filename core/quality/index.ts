export * from "./finding";
export * from "./report";
export * from "./compare";
export { robustScores } from "./jumps";
