import { formatDate } from "#core/bars";
import type { CriterionOutcome, ProbeOutcome, ProbePart } from "#core/probes";

/** What 0.6.0 and earlier stored of an out-of-sample probe, the only kind there was. */
interface OldOutcome {
  verdict: ProbeOutcome["verdict"];
  criteria: CriterionOutcome[];
  parts: ProbePart[];
  equity: { date: number[]; value: number[] };
  weight: number;
}

/** A stored outcome; older ones get the drawing that they were drawn with. */
export function readOutcome(stored: unknown): ProbeOutcome {
  const outcome = stored as ProbeOutcome | OldOutcome;
  if (!("equity" in outcome)) return outcome;
  const { verdict, criteria, parts, equity, weight } = outcome;
  const judged = parts[1].metrics;
  return {
    verdict,
    criteria,
    said: `profit factor ${judged.profitFactor?.toFixed(2) ?? "none"} on ${judged.trades} trades out of sample, up to ${formatDate(equity.date[equity.date.length - 1])}`,
    parts,
    drawings: [
      {
        kind: "curves",
        title: "Both stretches on one curve",
        dates: equity.date,
        curves: [{ name: "the version", values: equity.value, role: "main" }],
        stretches: parts.map(({ name, from, to }) => ({ name, from, to, tint: name === "in-sample" })),
      },
    ],
    weight,
  };
}
