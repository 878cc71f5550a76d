export * from "./days";
export * from "./switched";
