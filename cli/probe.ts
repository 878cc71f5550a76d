import * as yup from "yup";
import { readCascade, runCascade, spanOfBars, stageInput, windowOf } from "#core/cascades";
import { checkShape, exact, formatKey, list, text, withoutNulls, type DocumentProblem, type Read } from "#core/documents";
import { PROBES, readInput, runProbe, type OtherBars, type ProbeContext } from "#core/probes";
import { inPlan, settingsInPlan, strategyInPlan, type PlanOptions } from "./in-plan";
import { InputError, problemLines, readDocument, writeOut } from "./files";

const document = () =>
  yup
    .mixed<object | string>()
    .test("document", "must be a document or a path", (x) => x === undefined || typeof x === "object" || typeof x === "string");

const shared = () => ({
  strategy: document().required(),
  settings: document().required(),
  /** further settings on which it runs: other markets, other sources, finer bars */
  others: list(exact({ name: text().required(), settings: document().required() }, "other settings")),
});

const probePlan = exact(
  { format: formatKey("canyon.probe/1"), ...shared(), probe: text().required(), input: yup.mixed<object>().required() },
  "a probe",
);
const cascadePlan = exact({ format: formatKey("canyon.cascade-plan/1"), ...shared(), cascade: document().required() }, "a cascade’s plan");

interface Plan {
  strategy: unknown;
  settings: unknown;
  others?: { name: string; settings: unknown }[];
}

function read<T>(schema: yup.Schema): (given: unknown) => Read<T> {
  return (given) => {
    const problems: DocumentProblem[] = checkShape(schema, given);
    return problems.length > 0 ? { value: null, problems } : { value: withoutNulls(given) as T, problems: [] };
  };
}

/** Strategy, settings and bars of a plan. */
function contextOf(options: PlanOptions, plan: Plan): ProbeContext {
  const strategy = strategyInPlan(options, plan.strategy);
  const { settings, bars } = settingsInPlan(options, plan.settings);
  const others = (plan.others ?? []).map((other): OtherBars => ({ name: other.name, ...settingsInPlan(options, other.settings) }));
  return { strategy, settings, bars, others };
}

/** `canyon probe`: one probe of a strategy; gives `canyon.probe-result/1`. */
export function probeCommand(options: PlanOptions): void {
  const plan = readDocument(
    options.plan,
    read<Plan & { probe: string; input: Record<string, unknown> & { criteria: Record<string, number> } }>(probePlan),
  );
  const kind = PROBES.get(plan.probe);
  if (kind === undefined)
    throw new InputError(
      problemLines(options.plan, [
        { path: "probe", message: `there is no probe “${plan.probe}”; there are ${[...PROBES.keys()].join(", ")}` },
      ]),
    );
  const context = contextOf(options, plan);
  const own = stageInput(plan, context.strategy, windowOf(context.settings, context.bars.map(spanOfBars)));
  const input = readInput(kind, own);
  const ran = input.value === null ? { outcome: null, problems: input.problems } : runProbe(kind, input.value, context);
  if (ran.outcome === null)
    throw new InputError(
      problemLines(
        options.plan,
        ran.problems.map((p) => ({
          ...p,
          path: p.path.startsWith("settings") || p.path.startsWith("strategy") ? p.path : `input.${p.path}`,
        })),
      ),
    );
  writeOut(options.out, `${JSON.stringify({ format: "canyon.probe-result/1", probe: plan.probe, input: input.value, ...ran.outcome })}\n`);
}

/** `canyon cascade`: a cascade on one strategy; gives `canyon.cascade-result/1`. */
export function cascadeCommand(options: PlanOptions): void {
  const plan = readDocument(options.plan, read<Plan & { cascade: unknown }>(cascadePlan));
  const cascade = inPlan(options, plan.cascade, "cascade", readCascade).value;
  const { through, stages } = runCascade(cascade, contextOf(options, plan));
  writeOut(options.out, `${JSON.stringify({ format: "canyon.cascade-result/1", cascade: cascade.name, through, stages })}\n`);
}
