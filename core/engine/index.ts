export * from "./compile";
export * from "./prepare";
export * from "./trade-log";
export * from "./simulation";
export * from "./simulate";
export type { Leg } from "./leg";
