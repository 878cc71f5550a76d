import * as yup from "yup";
import { parseDate } from "#core/bars";
import {
  checkShape,
  exact,
  formatKey,
  list,
  number,
  oneOf,
  text,
  truth,
  whole,
  withoutNulls,
  type DocumentProblem,
  type Read,
} from "#core/documents";
import { MODES, type WeightMode } from "./weights";

/** How a portfolio's weights come about. */
export interface Weighting {
  mode: WeightMode;
  from?: string;
  to?: string;
  least?: number;
  most?: number;
  shrink?: boolean;
  /** months after which estimated weights are estimated anew, along the way */
  every?: number;
}

/** `canyon.portfolio/1`; strategies and settings may be the documents themselves or paths to them. */
export interface PortfolioDocument {
  format: "canyon.portfolio/1";
  settings: unknown;
  members: { name?: string; strategy: unknown; markets?: string[]; weight?: number; marketLimit?: number }[];
  weights: Weighting;
}

const document = () =>
  yup
    .mixed<object | string>()
    .test("document", "must be a document or a path", (x) => x === undefined || typeof x === "object" || typeof x === "string");
const date = () => text().test("date", "must be a date, YYYY-MM-DD", (x) => x === undefined || x === null || parseDate(x) !== null);

export const portfolioSchema = exact(
  {
    format: formatKey("canyon.portfolio/1"),
    settings: document().required(),
    members: list(
      exact(
        {
          name: text(),
          strategy: document().required(),
          markets: list(text().required()).min(1, "must name at least one market"),
          weight: number().min(0, "must not be negative"),
          marketLimit: whole().min(1, "must be at least 1"),
        },
        "a member",
      ),
    )
      .required()
      .min(1, "must hold at least one member"),
    weights: exact(
      {
        mode: oneOf(MODES).required(),
        from: date(),
        to: date(),
        least: number().min(0, "must not be negative"),
        most: number().moreThan(0, "must be above 0"),
        shrink: truth(),
        every: whole().min(1, "must be at least 1 month"),
      },
      "weights",
    ).default(undefined),
  },
  "a portfolio",
);

/** Reads a portfolio, and refuses weights that can't be. */
export function readPortfolio(given: unknown): Read<PortfolioDocument> {
  const problems = checkShape(portfolioSchema, given);
  if (problems.length > 0) return { value: null, problems };
  const raw = withoutNulls(given) as Omit<PortfolioDocument, "weights"> & { weights?: Weighting };
  const weights = raw.weights ?? { mode: "given" };
  const faults = weightingFaults(weights, raw.members);
  return faults.length > 0 ? { value: null, problems: faults } : { value: { ...raw, weights }, problems: [] };
}

/** What is wrong with a way of weighting for these members. */
export function weightingFaults(
  { mode, from, to, least, most, every }: Weighting,
  members: readonly { weight?: number }[],
): DocumentProblem[] {
  const problems: DocumentProblem[] = [];
  const n = members.length;
  if (mode === "given")
    members.forEach((member, i) => {
      if (member.weight === undefined)
        problems.push({ path: `members[${i}].weight`, message: "weights by hand need a weight for every member" });
    });
  const limited = mode === "minimumVariance" || mode === "maximumDiversification";
  for (const [key, value] of [
    ["least", least],
    ["most", most],
  ] as const)
    // prettier-ignore
    if (value !== undefined && !limited)
      problems.push({ path: `weights.${key}`, message: `only minimumVariance and maximumDiversification take ${key}` });
  if (limited && least !== undefined && least * n > 1 + 1e-12)
    problems.push({ path: "weights.least", message: `${n} members of at least ${least} come to more than 1` });
  if (limited && most !== undefined && most * n < 1 - 1e-12)
    problems.push({ path: "weights.most", message: `${n} members of at most ${most} come to less than 1` });
  if (least !== undefined && most !== undefined && least > most)
    problems.push({ path: "weights.least", message: "least must not be above most" });
  const estimated = mode !== "given" && mode !== "equal";
  if (every !== undefined && !estimated)
    problems.push({
      path: "weights.every",
      message: `weights that are ${mode === "given" ? "given" : "equal"} are not estimated, so not anew either`,
    });
  if (estimated)
    for (const [key, value] of [
      ["from", from],
      ["to", to],
    ] as const)
      // prettier-ignore
      if (value === undefined)
        problems.push({ path: `weights.${key}`, message: "weights that are estimated need the dates that they are estimated on" });
  if (estimated && from !== undefined && to !== undefined && from > to)
    problems.push({ path: "weights.to", message: "must not be before from" });
  return problems;
}
