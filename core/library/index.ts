export * from "./document";
export * from "./ready-made";
export * from "./strategies";
