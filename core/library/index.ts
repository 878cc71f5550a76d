export * from "./document";
export * from "./ready-made";
