export * from "./permuted-bars";
