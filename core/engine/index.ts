export * from "./compile";
export * from "./compile-protect";
export * from "./prepare";
export * from "./leg-plan";
export * from "./trade-log";
export * from "./simulation";
export * from "./simulate";
export * from "./position-columns";
export type { Leg } from "./leg";
