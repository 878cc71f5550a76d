/** How far a strategy has come, in the order of its life. */
export type Status = "draft" | "candidate" | "survivor" | "forward test" | "retired";
export const STATUSES: readonly Status[] = ["draft", "candidate", "survivor", "forward test", "retired"];
