export * from "./outliers";
export * from "./groups";
export * from "./falls";
export * from "./bootstrap";
export * from "./luck";
export * from "./compare";
export * from "./costs";
