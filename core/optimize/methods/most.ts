import { trialsIn, type Space } from "../space";
import type { Method } from "./method";

/** How many trials a method may make at most, as far as it is known before it starts; `refine` makes more than its coarse grid. */
export function mostTrials(space: Space, method: Method): number {
  const all = trialsIn(space);
  switch (method.kind) {
    case "grid":
      return all;
    case "random":
    case "sobol":
      return Math.min(method.trials, all);
    case "evolution":
      return Math.min(method.population * method.generations, all);
    case "refine": {
      const coarse = space.axes.reduce((product, { values, steps }) => {
        const { length } = values;
        return product * (steps ? Math.ceil((length - 1) / method.coarse) + 1 : length);
      }, 1);
      return Math.min(coarse, all);
    }
  }
}
