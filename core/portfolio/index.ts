export * from "./portfolio";
