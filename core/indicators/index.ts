export * from "./averages";
export * from "./windows";
export * from "./momentum";
export * from "./ranges";
