export * from "./plan";
export * from "./windows";
export * from "./walk-forward";
export * from "./map";
