export * from "./shape";
export * from "./strategy";
export * from "./market";
export * from "./settings";
export * from "./result";
export * from "./fingerprint";
export * from "./json-schema";
