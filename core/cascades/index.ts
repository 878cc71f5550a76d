export * from "./document";
export * from "./resolve";
export * from "./run";
export * from "./ready-made";
