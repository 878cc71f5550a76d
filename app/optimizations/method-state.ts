import type { Method } from "#core/optimize";

/** How combinations are chosen, as typed in the set-up. */
export interface MethodState {
  kind: Method["kind"];
  trials: string;
  seed: string;
  population: string;
  generations: string;
  islands: string;
  coarse: string;
}

export const START_METHOD: MethodState = {
  kind: "grid",
  trials: "500",
  seed: "1",
  population: "60",
  generations: "30",
  islands: "1",
  coarse: "4",
};

export const METHOD_WORDS: Record<Method["kind"], { label: string; about: string; fields: readonly (keyof MethodState)[] }> = {
  grid: { label: "every combination", about: "Nothing is missed, and the whole map is seen.", fields: [] },
  random: {
    label: "a random draw",
    about: "Combinations by chance, none twice; another seed is another draw.",
    fields: ["trials", "seed"],
  },
  sobol: { label: "an even draw", about: "Combinations spread evenly over all ranges, by the Sobol sequence.", fields: ["trials"] },
  evolution: {
    label: "evolution",
    about: "Breeds the good ones. It finds peaks with few trials, and tells less about what lies around them.",
    fields: ["population", "generations", "islands", "seed"],
  },
  refine: {
    label: "coarse first, then finer",
    about: "Every so many places of each range first, then everything around the region that does well.",
    fields: ["coarse"],
  },
};

export const METHOD_FIELDS: Partial<Record<keyof MethodState, string>> = {
  trials: "Trials",
  seed: "Seed",
  population: "Population",
  generations: "Generations",
  islands: "Islands",
  coarse: "Places between",
};

const number = (text: string): number => (text.trim() === "" ? NaN : Number(text.replace(",", ".")));

/** The method as a document has it; null for one that takes every combination. What is wrong with a number is said by the server. */
export function methodFrom(state: MethodState): Record<string, string | number | null> {
  return Object.fromEntries([["kind", state.kind], ...METHOD_WORDS[state.kind].fields.map((key) => [key, number(state[key])])]) as Record<
    string,
    string | number | null
  >;
}

/** Why a method's numbers are none, or null. */
export function methodFault(state: MethodState): { path: string; message: string } | null {
  const wrong = METHOD_WORDS[state.kind].fields.find(
    (key) => !Number.isInteger(number(state[key])) || number(state[key]) < (key === "seed" ? 0 : 1),
  );
  return wrong === undefined ? null : { path: METHOD_FIELDS[wrong]!.toLowerCase(), message: "must be a whole number from 1 on" };
}

/** Trials that a method makes of so many combinations, at most, as far as is known before. */
export function methodTrials(state: MethodState, combinations: number): number {
  switch (state.kind) {
    case "random":
    case "sobol":
      return Math.min(number(state.trials), combinations);
    case "evolution":
      return Math.min(number(state.population) * number(state.generations), combinations);
    default:
      return combinations;
  }
}
