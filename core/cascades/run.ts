import type { DocumentProblem } from "#core/documents";
import { PROBES, readInput, runProbe, type ProbeContext, type ProbeOutcome } from "#core/probes";
import type { Cascade } from "./document";
import { spanOfBars, stageInput, windowOf } from "./resolve";

/** What one stage said of a version. */
export interface StageResult {
  probe: string;
  outcome: ProbeOutcome | null;
  /** why the probe could not be asked */
  problems: DocumentProblem[];
}

/** A cascade on one version. `through`: it passed every stage. */
export function runCascade({ stages, goOn }: Cascade, context: ProbeContext): { through: boolean; stages: StageResult[] } {
  const window = windowOf(context.settings, context.bars.map(spanOfBars));
  const out: StageResult[] = [];
  for (const stage of stages) {
    const kind = PROBES.get(stage.probe)!;
    const { value, problems } = readInput(kind, stageInput(stage, context.strategy, window));
    const ran = value === null ? { outcome: null, problems } : runProbe(kind, value, context);
    out.push({ probe: stage.probe, outcome: ran.outcome, problems: [...ran.problems] });
    if (ran.outcome?.verdict !== "passed" && !goOn) break;
  }
  return { through: out.length === stages.length && out.every(({ outcome }) => outcome?.verdict === "passed"), stages: out };
}
