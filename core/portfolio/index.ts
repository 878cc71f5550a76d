export * from "./portfolio";
export * from "./weights";
export * from "./covariance";
export * from "./document";
export * from "./estimate";
