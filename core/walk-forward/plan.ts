import * as yup from "yup";
import { checkShape, exact, formatKey, list, number, oneOf, truth, withoutNulls, type DocumentProblem, type Read } from "#core/documents";
import { searchKeys, searchOf, type Search, type Written } from "#core/optimize";

export const FIGURES = ["efficiency", "profitable", "largestShare"] as const;
export type Figure = (typeof FIGURES)[number];

/** What a cell of a map must reach; both bounds are inclusive, and a figure without a value fails. */
export interface Criterion {
  figure: Figure;
  least?: number;
  most?: number;
}

/** `canyon.walk-forward/1`: an optimization that is repeated along the way. Lists make a map. */
export interface WalkForward {
  format: "canyon.walk-forward/1";
  strategy: unknown;
  settings: unknown;
  search: Search;
  from?: string;
  to?: string;
  windows: number[];
  outShare: number[];
  /** whether it is a map, also of a single cell */
  map: boolean;
  anchored: boolean;
  choose: "best" | "recommended";
  criteria: Criterion[];
}

const wholes = (x: unknown): boolean => typeof x === "number" && Number.isInteger(x) && x >= 1;
const shares = (x: unknown): boolean => typeof x === "number" && x > 0 && x < 100;

/** A number, or a rising list of them. */
const oneOrRising = (good: (x: unknown) => boolean, what: string) =>
  yup
    .mixed<number | number[]>()
    .required()
    .test("numbers", `must be ${what}, or a rising list of such`, (given) => {
      if (given === undefined || given === null) return true;
      const values: unknown[] = Array.isArray(given) ? given : [given];
      return values.length > 0 && values.every((x, i) => good(x) && (i === 0 || (x as number) > (values[i - 1] as number)));
    });

export const walkForwardSchema = exact(
  {
    format: formatKey("canyon.walk-forward/1"),
    ...searchKeys(),
    windows: oneOrRising(wholes, "a whole number from 1 on"),
    outShare: oneOrRising(shares, "a share in percent above 0 and below 100"),
    anchored: truth(),
    choose: oneOf(["best", "recommended"] as const),
    criteria: list(exact({ figure: oneOf(FIGURES).required(), least: number(), most: number() }, "a criterion")),
  },
  "a walk-forward",
);

/** Reads a walk-forward, or a map of them. */
export function readWalkForward(given: unknown): Read<WalkForward> {
  const problems: DocumentProblem[] = checkShape(walkForwardSchema, given);
  if (problems.length > 0) return { value: null, problems };
  const raw = withoutNulls(given) as Written & {
    windows: number | number[];
    outShare: number | number[];
    anchored?: boolean;
    choose?: "best" | "recommended";
    criteria?: Criterion[];
  };
  const search = searchOf(raw, problems);
  if (problems.length > 0) return { value: null, problems };
  const { strategy, settings, from, to, windows, outShare, anchored = false, choose = "best", criteria = [] } = raw;
  return {
    value: {
      format: "canyon.walk-forward/1",
      strategy,
      settings,
      search,
      from,
      to,
      windows: [windows].flat(),
      outShare: [outShare].flat(),
      map: Array.isArray(windows) || Array.isArray(outShare),
      anchored,
      choose,
      criteria,
    },
    problems: [],
  };
}
