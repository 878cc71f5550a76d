import type { DocumentProblem } from "#core/documents";
import type { PreparedRun } from "#core/engine";
import type { Drawing } from "./drawings";
import type { Finding, ProbeCriterion, ProbeField, Ready } from "./kind";
import { bare, type StretchPart } from "./out-of-sample";
import { barsOf, reachesFactor, sparse, together } from "./runs";

/** What each of several runs has to reach to count as holding. */
export interface EachMark {
  factor: number;
  least: number;
}

export const EACH_FIELDS: readonly ProbeField[] = [
  { key: "factor", label: "Each has to reach a profit factor of", kind: "number", initial: 1.1, least: 0, most: 1000 },
  { key: "least", label: "on at least so many closed trades", kind: "whole", initial: 10, least: 0, most: 1e6 },
];

export const heldCriterion = (what: string): ProbeCriterion => ({
  key: "held",
  label: `${what} that hold`,
  unit: "count",
  want: "least",
  initial: null,
  from: 1,
  to: 1000,
});

/** Runs made ready one by one, or everything that is wrong with them. */
export function allReady(runs: readonly Ready<PreparedRun>[]): Ready<PreparedRun[]> {
  const problems: DocumentProblem[] = runs.flatMap((run) => run.problems);
  return problems.length > 0 ? { value: null, problems } : { value: runs.map((run) => run.value!), problems: [] };
}

/** Why a number of runs that has to hold can't be reached, or null. */
export const tooMany = (asked: number | undefined, there: number, what: string): DocumentProblem | null =>
  asked !== undefined && asked > there
    ? {
        path: "criteria.held",
        message: `${asked} ${what} can't hold where ${there} ${there === 1 ? "is" : "are"} looked at; ask for fewer, or choose more`,
      }
    : null;

const holds = ({ metrics }: Pick<StretchPart, "metrics">, { factor, least }: EachMark): boolean =>
  reachesFactor(metrics, factor) && (metrics.trades ?? 0) >= least;

/** Parts of which each is marked as holding or not, and how many hold. */
function eachMarked(parts: readonly StretchPart[], mark: EachMark) {
  const marked = parts.map((part) => ({ ...bare(part), held: holds(part, mark) }));
  return { marked, held: marked.filter((part) => part.held).length };
}

/** Curves of several runs on one chart, as percent of the capital they began with. */
export function besideDrawing(title: string, parts: readonly StretchPart[], capital: number): Drawing {
  const { dates, values } = together(parts.map((part) => part.equity));
  const places = sparse(dates.length);
  return {
    kind: "curves",
    title,
    dates: places.map((k) => dates[k]),
    curves: parts.map((part, k) => ({
      name: part.name,
      values: places.map((at) => values[k][at] ?? capital),
      role: k === 0 ? ("main" as const) : ("member" as const),
    })),
    stretches: [],
  };
}

/** What came of runs of which so many have to hold; the first of the parts is the version's own. */
export function eachFinding(title: string, runs: readonly PreparedRun[], parts: readonly StretchPart[], mark: EachMark): Finding {
  const { marked, held } = eachMarked(parts.slice(1), mark);
  const names = marked.filter((part) => part.held).map((part) => part.name);
  return {
    got: { held },
    said: `holds on ${held} of ${marked.length}: ${names.join(", ") || "none"}`,
    parts: [bare(parts[0]), ...marked],
    drawings: [besideDrawing(title, parts, runs[0].account.capital)],
    weight: runs.slice(1).reduce((sum, run) => sum + barsOf(run), 0),
  };
}
