export * from "./plan";
export * from "./values";
export * from "./trials";
export * from "./chunk";
