export * from "./saved";
export * from "./apply";
export * from "./ready-made";
export * from "./words";
