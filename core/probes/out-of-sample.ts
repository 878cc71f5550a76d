import { formatDate, parseDate } from "#core/bars";
import { checkShape, exact, number, text, whole, withoutNulls, type DocumentProblem, type Settings } from "#core/documents";
import type { Simulation } from "#core/engine";
import { backtest } from "#core/runs";
import type { CriterionOutcome, ProbeContext, ProbeKind, ProbeRun } from "./registry";

/** Criteria of the out-of-sample probe, set before it runs. Those left out are not asked. */
export interface OutOfSampleCriteria {
  /** least profit factor out of sample */
  profitFactor?: number;
  /** least number of closed trades out of sample */
  trades?: number;
  /** least share of the in-sample CAGR ÷ drawdown that is kept, in percent */
  keptPercent?: number;
}

export interface OutOfSampleInput {
  /** last session date of the in-sample stretch; the rest is out of sample */
  split: string;
  criteria: OutOfSampleCriteria;
}

const date = () => text().test("date", "must be a date, YYYY-MM-DD", (x) => x === undefined || parseDate(x) !== null);
const schema = exact(
  {
    split: date().required(),
    criteria: exact(
      { profitFactor: number().min(0, "must not be negative"), trades: whole().min(0, "must not be negative"), keptPercent: number() },
      "the criteria",
    ).required(),
  },
  "an out-of-sample probe",
);

export const outOfSample: ProbeKind<OutOfSampleInput> = {
  kind: "outOfSample",
  name: "Out-of-sample",
  question: "Does it still work on data that its making never saw?",
  caution:
    "It does not say that the edge is real: one later stretch is one draw, a few trades can pass by luck, and data that is looked at again and again stops being unseen.",
  read(given) {
    const problems = checkShape(schema, given);
    if (problems.length > 0) return { value: null, problems };
    const value = withoutNulls(given) as OutOfSampleInput;
    if (Object.keys(value.criteria).length === 0)
      return {
        value: null,
        problems: [
          { path: "criteria", message: "set at least one criterion before the probe runs; a verdict needs something to be judged by" },
        ],
      };
    return { value, problems: [] };
  },
  run(input, context) {
    const split = parseDate(input.split)!;
    const inSample = part(context, { ...context.settings, to: input.split });
    const later = part(context, { ...context.settings, from: formatDate(split + 1) });
    const problems = [...named("in-sample", inSample.problems), ...named("out-of-sample", later.problems)];
    if (inSample.run === null || later.run === null) return { outcome: null, problems };
    const [before, after] = [inSample.run, later.run];
    const criteria = judge(input.criteria, before.result.metrics.all, after.result.metrics.all);
    return {
      outcome: {
        verdict: criteria.every((criterion) => criterion.held) ? "passed" : "failed",
        criteria,
        parts: [
          { name: "in-sample", ...span(before.simulation), metrics: before.result.metrics.all },
          { name: "out-of-sample", ...span(after.simulation), metrics: after.result.metrics.all },
        ],
        equity: joined(before.simulation, after.simulation),
        weight: after.simulation.equity.length,
      },
      problems: [],
    };
  },
};

function part(context: ProbeContext, settings: Settings) {
  const { result, simulation, problems } = backtest(context.strategy, settings, context.bars) as ReturnType<typeof backtest> & {
    simulation?: Simulation;
  };
  return result === null ? { run: null, problems } : { run: { result, simulation: simulation! }, problems: [] };
}

const named = (name: string, problems: readonly DocumentProblem[]): DocumentProblem[] =>
  problems.map(({ path, message }) => ({ path, message: `${name}: ${message}` }));

function span({ run }: Simulation): { from: string; to: string } {
  const { dates } = run.clock;
  return { from: formatDate(dates[0]), to: formatDate(dates[dates.length - 1]) };
}

/** Both stretches on one curve: the second goes on from where the first ended, in proportion. */
function joined(before: Simulation, after: Simulation): { date: number[]; value: number[] } {
  const end = before.equity[before.equity.length - 1];
  const scale = end / after.run.account.capital;
  return {
    date: [...before.run.clock.dates, ...after.run.clock.dates],
    value: [...before.equity, ...Array.from(after.equity, (x) => x * scale)],
  };
}

function judge(
  criteria: OutOfSampleCriteria,
  before: Record<string, number | null>,
  after: Record<string, number | null>,
): CriterionOutcome[] {
  const out: CriterionOutcome[] = [];
  const ask = (label: string, unit: CriterionOutcome["unit"], asked: number | undefined, got: number | null) => {
    if (asked !== undefined) out.push({ label, unit, asked, got, held: got !== null && got >= asked });
  };
  // a stretch without losers has no profit factor; winners alone hold any criterion
  if (criteria.profitFactor !== undefined && after.profitFactor === null && (after.winners ?? 0) > 0)
    out.push({ label: "Profit factor", unit: "ratio", asked: criteria.profitFactor, got: null, held: true, note: "no losers" });
  else ask("Profit factor", "ratio", criteria.profitFactor, after.profitFactor);
  ask("Closed trades", "count", criteria.trades, after.trades);
  const kept = before.mar !== null && before.mar > 0 && after.mar !== null ? (100 * after.mar) / before.mar : null;
  ask("Share of the in-sample CAGR ÷ drawdown kept", "percent", criteria.keptPercent, kept);
  return out;
}

export type { ProbeRun };
