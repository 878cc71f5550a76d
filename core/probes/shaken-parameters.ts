import type { Parameter } from "#core/documents";
import type { PreparedRun } from "#core/engine";
import { faultFinder } from "#core/optimize";
import { Random } from "#core/random";
import { againstReal, confidence, thinned } from "./confidence";
import { probe, type ProbeInput } from "./kind";
import { barsOf, figuresOf, ownRun, stored, type Figures } from "./runs";

interface Input extends ProbeInput {
  runs: number;
  probability: number;
  share: number;
  of: "value" | "range";
  factor: number;
  seed: number;
}

interface Prepared {
  run: PreparedRun;
  parameters: Parameter[];
  fault: ReturnType<typeof faultFinder>;
  input: Input;
  /** figures by values: whole numbers that move a little meet again and again */
  known: Map<string, Figures>;
}

/** Figures that are held at most, so that a hundred thousand runs of numbers that never meet again do not fill the memory. */
const MOST_KNOWN = 20_000;

/** The figures under some values, computed once. */
function figuresUnder({ run, parameters, known }: Prepared, values: Record<string, number>): Figures {
  const key = parameters.map(({ name }) => values[name]).join(" ");
  let figures = known.get(key);
  if (figures === undefined) {
    figures = stored(figuresOf(run, values));
    if (known.size < MOST_KNOWN) known.set(key, figures);
  }
  return figures;
}

/** Draws that make no sense for the rules are drawn again; after so many the parameters stay as they are. */
const MOST_DRAWS = 200;

/** Values of one shaken run; the same for the same seed and number. */
export function shakenValues({ parameters, run, fault, input }: Omit<Prepared, "known">, number: number): Record<string, number> {
  const random = new Random(input.seed, number);
  const own = run.members[0].compiled.values;
  for (let draw = 0; draw < MOST_DRAWS; draw++) {
    const values: Record<string, number> = { ...own };
    for (const { name, kind, min, max } of parameters) {
      const [moved, by] = [random.uniform() * 100 < input.probability, 2 * random.uniform() - 1];
      if (!moved) continue;
      const size = (input.share / 100) * (input.of === "range" ? max! - min! : Math.abs(own[name]));
      let value = own[name] + by * size;
      if (kind === "whole") value = Math.round(value);
      values[name] = Math.min(max ?? Infinity, Math.max(min ?? -Infinity, value));
    }
    if ((fault?.(values) ?? null) === null) return values;
  }
  return { ...own };
}

export const shakenParameters = probe<Input, Prepared, Figures>({
  kind: "shakenParameters",
  name: "Parameters shaken",
  question: "Does it hold when its numbers are a little wrong?",
  caution:
    "It does not say that the numbers are right: a strategy that is fitted to noise on a broad plateau passes, too. It says that no single number carries the result.",
  needs: "nothing",
  fields: [
    { key: "runs", label: "Runs", kind: "whole", initial: 500, least: 20, most: 100_000 },
    {
      key: "probability",
      label: "Each parameter is moved with a probability of",
      kind: "number",
      initial: 80,
      least: 1,
      most: 100,
      unit: "%",
    },
    { key: "share", label: "by up to", kind: "number", initial: 20, least: 0.1, most: 100, unit: "%" },
    {
      key: "of",
      label: "of",
      kind: "choice",
      initial: "value",
      choices: [
        { value: "value", label: "its value" },
        { value: "range", label: "its range" },
      ],
    },
    { key: "factor", label: "A run holds from a profit factor of", kind: "number", initial: 1.1, least: 0, most: 1000 },
    { key: "seed", label: "Seed", kind: "whole", initial: 1 },
  ],
  criteria: [
    { key: "share", label: "Runs that hold", unit: "percent", want: "least", initial: 80, from: 0, to: 100 },
    {
      key: "kept",
      label: "Median net of the runs, of the version's own",
      unit: "percent",
      want: "least",
      initial: 50,
      from: -1000,
      to: 1000,
    },
  ],
  unitName: "runs",
  prepare(input, context) {
    const run = ownRun(context);
    if (run.value === null) return run;
    const parameters = (context.strategy.parameters ?? []).filter(({ kind }) => kind !== "yesNo");
    if (parameters.length === 0)
      return {
        value: null,
        problems: [{ path: "strategy.parameters", message: "the version has no number to shake; give the numbers of its rules names" }],
      };
    const lacking = parameters.filter(({ min, max }) => min === undefined || max === undefined);
    if (input.of === "range" && lacking.length > 0)
      return {
        value: null,
        problems: [
          {
            path: "of",
            message: `${lacking.map(({ name }) => name).join(", ")}: no range is set; give one in the rules, or take a share of the value`,
          },
        ],
      };
    return {
      value: { run: run.value, parameters, fault: faultFinder(run.value.members[0].compiled), input, known: new Map() },
      problems: [],
    };
  },
  // the version itself is the first unit
  units: ({ input }) => input.runs + 1,
  compute: (prepared, unit) =>
    figuresUnder(prepared, unit === 0 ? { ...prepared.run.members[0].compiled.values } : shakenValues(prepared, unit)),
  conclude({ run, input, parameters }, [real, ...runs]) {
    const { nets, own, share, kept } = againstReal(real, runs, input.factor);
    return {
      got: { share, kept },
      said: `${share.toFixed(0)} % of ${runs.length} runs hold; their median keeps ${kept === null ? "–" : `${kept.toFixed(0)} %`} of the net (${parameters.map(({ name }) => name).join(", ")} shaken)`,
      drawings: [
        {
          kind: "spread",
          title: "Net profit of the shaken runs",
          metric: "netPercent",
          unit: "percent",
          values: thinned(nets),
          marks: [{ name: "the version", value: own }],
        },
        confidence(runs, real),
      ],
      weight: barsOf(run),
    };
  },
});
