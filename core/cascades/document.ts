import * as yup from "yup";
import { checkShape, exact, formatKey, list, text, truth, withoutNulls, type DocumentProblem, type Read } from "#core/documents";
import { PROBES, readInput } from "#core/probes";

/** One probe of a cascade. Dates may be shares of the window (“70%”), and what is searched may be left out: a version's own ranges then. */
export interface Stage {
  probe: string;
  input: Record<string, unknown> & { criteria: Record<string, number> };
}

/** `canyon.cascade/1`: an ordered set of probes with their criteria, the cheap ones first. */
export interface Cascade {
  format: "canyon.cascade/1";
  name: string;
  about?: string;
  /** whether a version that failed goes on to the next stage all the same */
  goOn: boolean;
  stages: Stage[];
}

export const cascadeSchema = exact(
  {
    format: formatKey("canyon.cascade/1"),
    name: text().required("needs a name"),
    about: text(),
    goOn: truth(),
    stages: list(
      exact(
        {
          probe: text().required(),
          input: yup
            .mixed<object>()
            .required()
            .test("object", "must be an object", (x) => typeof x === "object"),
        },
        "a stage",
      ),
    )
      .required()
      .min(1, "must hold at least one probe"),
  },
  "a cascade",
);

const SHARE = /^(\d+(?:\.\d+)?)\s*%$/;

/** A share of a window as a number from 0 to 1, or null where a text is none. */
export function shareOf(given: unknown): number | null {
  const found = typeof given === "string" ? SHARE.exec(given) : null;
  return found === null ? null : Number(found[1]) / 100;
}

const STAND_IN = { vary: [{ name: "x", values: [1] }], objective: [{ metric: "netProfit" }] };

/** What is wrong with a stage by itself: what a version is asked for later is left open. */
function stageProblems({ probe, input }: Stage): DocumentProblem[] {
  const kind = PROBES.get(probe);
  if (kind === undefined) return [{ path: "probe", message: `there is no probe “${probe}”; there are ${[...PROBES.keys()].join(", ")}` }];
  if (kind.needs === "sealed") return [{ path: "probe", message: "a seal is opened by hand, with a reason; it is no stage of a cascade" }];
  const filled: Record<string, unknown> = { ...input };
  for (const field of kind.fields) {
    const share = shareOf(input[field.key]);
    if (field.kind === "date" && share !== null) {
      if (!(share > 0 && share < 1)) return [{ path: `input.${field.key}`, message: "a share of the window lies between 0 % and 100 %" }];
      filled[field.key] = "2000-01-01";
    }
    if (field.kind === "search" && (input[field.key] === undefined || input[field.key] === null)) filled[field.key] = STAND_IN;
  }
  return readInput(kind, filled).problems.map((p) => ({ ...p, path: `input.${p.path}` }));
}

/** Reads a cascade; everything that does not depend on a version is checked. */
export function readCascade(given: unknown): Read<Cascade> {
  const problems = checkShape(cascadeSchema, given);
  if (problems.length > 0) return { value: null, problems };
  const raw = withoutNulls(given) as Partial<Cascade> & { name: string; stages: Stage[] };
  raw.stages.forEach((stage, k) => problems.push(...stageProblems(stage).map((p) => ({ ...p, path: `stages[${k}].${p.path}` }))));
  if (raw.name.trim() === "") problems.push({ path: "name", message: "needs a name" });
  if (problems.length > 0) return { value: null, problems };
  const { name, about, goOn = false, stages } = raw;
  return {
    value: { format: "canyon.cascade/1", name: name.trim(), ...(about === undefined ? {} : { about }), goOn, stages },
    problems: [],
  };
}
