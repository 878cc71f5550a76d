/** How far a strategy has come, in the order of its life. */
export type Status = "draft" | "candidate" | "survivor" | "retired";
export const STATUSES: readonly Status[] = ["draft", "candidate", "survivor", "retired"];
