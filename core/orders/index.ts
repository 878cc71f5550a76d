export * from "./sheet";
export * from "./changes";
export * from "./document";
export * from "./schema";
