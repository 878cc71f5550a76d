export * from "./phrases";
export * from "./arguments";
export * from "./sentence";
export * from "./statement";
export * from "./differences";
