export * from "./tree";
export * from "./outline";
export * from "./rename";
