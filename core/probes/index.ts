export * from "./registry";
export { outOfSample, type OutOfSampleCriteria, type OutOfSampleInput } from "./out-of-sample";
