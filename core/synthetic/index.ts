export * from "./permuted-bars";
export * from "./shaken-bars";
