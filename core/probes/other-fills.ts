import type { DocumentProblem } from "#core/documents";
import { entriesLate, entriesMissed, entriesRestOnPosition, type EntryRework, type PreparedRun } from "#core/engine";
import { METRIC_INDEX, METRIC_KEYS, median } from "#core/metrics";
import { Random } from "#core/random";
import { confidence, shareReaching, thinned, columnOf } from "./confidence";
import { probe, type ProbeInput, type ProbePart } from "./kind";
import { bare } from "./out-of-sample";
import { barsOf, figuresOf, ownRun, partOf, readyRun, stored, type Figures } from "./runs";

interface Input extends ProbeInput {
  late: number;
  missed: number;
  repeats: number;
  factor: number;
  seed: number;
}

interface Variant {
  name: string;
  run: PreparedRun;
  rework?: EntryRework;
}

interface Prepared {
  variants: Variant[];
  run: PreparedRun;
  input: Input;
}

type Unit = { part: ProbePart } | { figures: Figures };

const ASSUMED = [
  ["pessimistic", "the worse first inside a bar"],
  ["optimistic", "the better first inside a bar"],
  ["path", "a path inside the bar"],
] as const;

export const otherFills = probe<Input, Prepared, Unit>({
  kind: "otherFills",
  name: "Worse fills",
  question: "Does it survive other fills, late entries and missed ones?",
  caution:
    "It does not say how your broker fills: it shows how much rests on what is assumed. Missed entries fall at random here; in life the best ones are missed most.",
  needs: "finest",
  fields: [
    { key: "late", label: "Entries so many bars late", kind: "whole", initial: 1, least: 1, most: 20 },
    { key: "missed", label: "Entries missed", kind: "number", initial: 20, least: 1, most: 95, unit: "%" },
    { key: "repeats", label: "Runs with missed entries", kind: "whole", initial: 200, least: 10, most: 10_000 },
    { key: "factor", label: "A run with missed entries holds from a profit factor of", kind: "number", initial: 1.1, least: 0, most: 1000 },
    { key: "seed", label: "Seed", kind: "whole", initial: 1 },
  ],
  criteria: [
    { key: "lowest", label: "Lowest profit factor of the assumptions", unit: "ratio", want: "least", initial: 1.05, from: 0, to: 1000 },
    { key: "late", label: "Profit factor with late entries", unit: "ratio", want: "least", initial: 1.05, from: 0, to: 1000 },
    { key: "missed", label: "Runs with missed entries that hold", unit: "percent", want: "least", initial: 80, from: 0, to: 100 },
  ],
  unitName: "runs",
  prepare(input, context) {
    const own = ownRun(context);
    if (own.value === null) return own;
    const problems: DocumentProblem[] = [];
    if (entriesRestOnPosition(own.value.members[0].compiled))
      problems.push({
        path: "strategy",
        message: "an entry rule looks at the position itself, so its entries can't be moved or missed; write the entry without it",
      });
    const variants: Variant[] = [{ name: "as set", run: own.value }];
    for (const [intrabar, name] of ASSUMED)
      if (intrabar !== context.settings.intrabar || context.settings.fineTimeframe !== null) {
        const made = readyRun(name, context.strategy, { ...context.settings, intrabar, fineTimeframe: null }, context.bars);
        if (made.value === null) problems.push(...made.problems);
        else variants.push({ name, run: made.value });
      }
    const [finest] = context.others;
    if (finest !== undefined) {
      const made = readyRun(finest.name, context.strategy, finest.settings, finest.bars);
      if (made.value === null) problems.push(...made.problems);
      else variants.push({ name: finest.name, run: made.value });
    }
    variants.push({
      name: `entries ${input.late} ${input.late === 1 ? "bar" : "bars"} late`,
      run: own.value,
      rework: entriesLate(input.late),
    });
    return problems.length > 0 ? { value: null, problems } : { value: { variants, run: own.value, input }, problems: [] };
  },
  units: ({ variants, input }) => variants.length + input.repeats,
  compute({ variants, run, input }, unit) {
    if (unit < variants.length) {
      const { name, run: own, rework } = variants[unit];
      return { part: bare(partOf(name, own, undefined, rework)) };
    }
    const random = new Random(input.seed, unit - variants.length);
    return { figures: stored(figuresOf(run, null, entriesMissed(input.missed / 100, random))) };
  },
  conclude({ run, input }, units) {
    const parts = units.flatMap((unit) => ("part" in unit ? [unit.part] : []));
    const missed = units.flatMap((unit) => ("figures" in unit ? [unit.figures] : []));
    const factor = ({ metrics }: ProbePart) => metrics.profitFactor ?? ((metrics.winners ?? 0) > 0 ? Infinity : 0);
    const assumed = parts.slice(0, -1);
    const lowest = Math.min(...assumed.map(factor));
    const late = parts[parts.length - 1];
    const share = shareReaching(missed, input.factor);
    const real: Figures = METRIC_KEYS.map((key) => parts[0].metrics[key]);
    const finite = (x: number) => (x === Infinity ? { held: true, note: "no losers" } : x);
    const nets = columnOf(missed, "netPercent");
    return {
      got: { lowest: finite(lowest), late: finite(factor(late)), missed: share },
      said: `lowest profit factor ${lowest.toFixed(2)}, ${factor(late).toFixed(2)} with late entries; ${share.toFixed(0)} % of ${missed.length} runs hold with ${input.missed} % of the entries missed, their median net ${median(nets).toFixed(1)} %`,
      parts,
      drawings: [
        {
          kind: "spread",
          title: `Net profit with ${input.missed} % of the entries missed`,
          metric: "netPercent",
          unit: "percent",
          values: thinned(nets),
          marks: [{ name: "none missed", value: real[METRIC_INDEX.netPercent] ?? 0 }],
        },
        confidence(missed, real),
      ],
      weight: barsOf(run),
    };
  },
});
