import { combinationAt, trialsIn } from "../space";
import type { Rounds, Task } from "./method";

/** Every combination, in grid order. */
export function* everything({ space }: Task): Rounds {
  yield Array.from({ length: trialsIn(space) }, (_, place) => combinationAt(space, place));
}
