import type { Objective, Limit } from "../plan";
import type { Space } from "../space";
import { everything } from "./everything";
import { evolution } from "./evolution";
import { random } from "./random";
import { refine } from "./refine";
import { sobol } from "./sobol";

/** How the combinations of a search are chosen. */
export type Method =
  | { kind: "grid" }
  | { kind: "random"; trials: number; seed: number }
  | { kind: "sobol"; trials: number }
  | {
      kind: "evolution";
      population: number;
      generations: number;
      elite: number;
      mutation: number;
      islands: number;
      seed: number;
      patience: number;
    }
  | { kind: "refine"; coarse: number };

/** What a method may know of the trials so far: their combinations and figures, by number. */
export interface Known {
  combinations: readonly number[];
  metrics: readonly ArrayLike<number>[];
}

/** What a method is asked for: where, by which objective. */
export interface Task {
  space: Space;
  objective: readonly Objective[];
  limits: readonly Limit[];
  mark: number | null;
}

/**
 * A search as rounds of combinations that nobody has seen before, in the order of their numbers; each round may look at
 * everything known so far. It rests on nothing but its task, its own options and what it is told, so it can be gone through
 * again from the start after a crash.
 */
export type Rounds = Generator<number[], void, Known>;

/** The rounds of a method. */
export function roundsOf(method: Method, task: Task): Rounds {
  switch (method.kind) {
    case "grid":
      return everything(task);
    case "random":
      return random(task, method);
    case "sobol":
      return sobol(task, method);
    case "evolution":
      return evolution(task, method);
    case "refine":
      return refine(task, method);
  }
}
