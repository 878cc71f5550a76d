export * from "./kind";
export type * from "./drawings";
export { PROBES } from "./registry";
export { ownSearch } from "./own-search";
