import { formatDate, parseDate } from "#core/bars";
import type { Settings } from "#core/documents";
import type { PreparedRun } from "#core/engine";
import { probe, type Got, type ProbeContext, type ProbeCriterion, type ProbeInput, type Ready } from "./kind";
import { barsOf, drawnCurve, partOf, profitFactorOf, readyRun, type DatedCurve } from "./runs";

/** Criteria of probes that set one stretch of dates against another. */
export const STRETCH_CRITERIA: readonly ProbeCriterion[] = [
  { key: "profitFactor", label: "Profit factor", unit: "ratio", want: "least", initial: 1.2, from: 0, to: 1000 },
  { key: "trades", label: "Closed trades", unit: "count", want: "least", initial: 20, from: 0, to: 1e6 },
  {
    key: "keptPercent",
    label: "Share of the in-sample CAGR ÷ drawdown kept",
    unit: "percent",
    want: "least",
    initial: 40,
    from: -1000,
    to: 1000,
  },
  { key: "drawdown", label: "Max drawdown", unit: "percent", want: "most", initial: null, from: 0, to: 100 },
];

interface Input extends ProbeInput {
  split: string;
  side: "later" | "earlier";
}

export type StretchPart = ReturnType<typeof partOf>;

/** What the judged stretch comes to against the one in sample. */
export function stretchGot(before: StretchPart, judged: StretchPart): Record<string, Got> {
  const [a, b] = [before.metrics, judged.metrics];
  return {
    profitFactor: profitFactorOf(b),
    trades: b.trades,
    keptPercent: a.mar !== null && a.mar > 0 && b.mar !== null ? (100 * b.mar) / a.mar : null,
    drawdown: b.maxDrawdownPercent,
  };
}

/** Two stretches on one curve, in the order of their dates: the second goes on from where the first ended, in proportion. */
export function joined(first: DatedCurve, second: DatedCurve, capital: number): DatedCurve {
  const scale = first.equity[first.equity.length - 1] / capital;
  return { dates: [...first.dates, ...second.dates], equity: [...first.equity, ...second.equity.map((x) => x * scale)] };
}

const two = (x: number | null): string => (x === null ? "none" : x.toFixed(2));

/** Two runs on stretches of one market's dates. */
export function twoStretches(context: ProbeContext, inside: Settings, outside: Settings): Ready<PreparedRun[]> {
  const runs = [
    readyRun("in-sample", context.strategy, inside, context.bars),
    readyRun("out-of-sample", context.strategy, outside, context.bars),
  ];
  const problems = runs.flatMap((run) => run.problems);
  return problems.length > 0 ? { value: null, problems } : { value: runs.map((run) => run.value!), problems: [] };
}

export const outOfSample = probe<Input, { runs: PreparedRun[]; later: boolean }, StretchPart>({
  kind: "outOfSample",
  name: "Out-of-sample",
  question: "Does it still work on data that its making never saw?",
  caution:
    "It does not say that the edge is real: one other stretch is one draw, a few trades can pass by luck, and data that is looked at again and again stops being unseen.",
  needs: "nothing",
  fields: [
    {
      key: "split",
      label: "The line between the two stretches",
      kind: "date",
      initial: null,
      about: "The earlier stretch ends with this session date.",
    },
    {
      key: "side",
      label: "The stretch that is judged",
      kind: "choice",
      initial: "later",
      choices: [
        { value: "later", label: "what comes later" },
        { value: "earlier", label: "what came earlier" },
      ],
    },
  ],
  criteria: STRETCH_CRITERIA,
  unitName: "runs",
  prepare(input, context) {
    const first = { ...context.settings, to: input.split };
    const second = { ...context.settings, from: formatDate(parseDate(input.split)! + 1) };
    const later = input.side === "later";
    const made = twoStretches(context, later ? first : second, later ? second : first);
    return made.value === null ? made : { value: { runs: made.value, later }, problems: [] };
  },
  units: () => 2,
  compute: ({ runs }, unit) => partOf(["in-sample", "out-of-sample"][unit], runs[unit]),
  conclude({ runs, later }, [before, judged]) {
    const [first, second] = later ? [before, judged] : [judged, before];
    const curve = drawnCurve(joined(first.equity, second.equity, runs[0].account.capital));
    return {
      got: stretchGot(before, judged),
      said: `profit factor ${two(judged.metrics.profitFactor)} on ${judged.metrics.trades} trades out of sample, ${two(before.metrics.profitFactor)} on ${before.metrics.trades} in sample`,
      parts: [bare(before), bare(judged)],
      drawings: [
        {
          kind: "curves",
          title: "Both stretches on one curve",
          dates: curve.dates,
          curves: [{ name: "the version", values: curve.equity, role: "main" }],
          stretches: [first, second].map(({ name, from, to }) => ({ name, from, to, tint: name === "in-sample" })),
        },
      ],
      weight: barsOf(runs[1]),
    };
  },
});

/** A part without its curve, which is in the drawing. */
export const bare = ({ equity: _equity, ...part }: StretchPart) => part;
