import type { Bars } from "#core/bars";
import type { Settings } from "#core/documents";
import { prepareRun, simulate, type StrategyProblem } from "#core/engine";
import { periodEnds, periodKey, periodReturns, sampleDeviation } from "#core/metrics";
import { covariance, shrunkCovariance } from "./covariance";
import type { Weighting } from "./document";
import { prepareMembers, type Member, type PreparedMembers } from "./portfolio";
import { weightsBy } from "./weights";

export type WeightsResult = { value: number[]; problems: [] } | { value: null; problems: StrategyProblem[] };

/** The members' weights by a mode; those given where that is the mode. `bars` in the order of the settings' markets. */
export function estimateWeights(
  members: readonly Member[],
  weighting: Weighting,
  settings: Settings,
  bars: readonly Bars[],
): WeightsResult {
  const { mode, most, shrink = false } = weighting;
  if (mode === "given") return { value: members.map((member) => member.weight), problems: [] };
  if (mode === "equal") return { value: members.map(() => 1 / members.length), problems: [] };
  const prepared = prepareMembers(members, settings, bars);
  if (prepared.value === null) return { value: null, problems: prepared.problems };
  const { series, problems } = aloneReturns(members, prepared.value, { ...settings, from: weighting.from!, to: weighting.to! });
  if (series === null) return { value: null, problems };
  const least = mode === "inverseVolatility" ? 2 : members.length + 1;
  if (series[0].length < least) {
    const message = `${series[0].length} dates are too few to weigh ${members.length} members by; at least ${least} are needed`;
    return { value: null, problems: [{ path: "weights.to", message }] };
  }
  const matrix = shrink ? shrunkCovariance(series).matrix : covariance(series);
  return { value: weightsBy(mode, matrix, { least: weighting.least, most }), problems: [] };
}

/**
 * Returns of each member alone on the whole account, over the union of their dates; 0 for a member without a point on a
 * date. Refused for a member that lost its account, or whose returns do not vary.
 */
export function aloneReturns(
  members: readonly Member[],
  { runMembers, markets }: PreparedMembers,
  settings: Settings,
): { series: Float64Array[]; problems: [] } | { series: null; problems: StrategyProblem[] } {
  const problems: StrategyProblem[] = [];
  const byDate = runMembers.map((member, m) => {
    const returns = new Map<number, number>();
    const refuse = (message: string) => problems.push({ path: `members[${m}]`, message: `“${members[m].name}” ${message}` });
    const run = prepareRun([{ ...member, weight: 1 }], settings, markets);
    if (run.value === null) {
      refuse(`alone: ${run.problems.map((p) => p.message).join("; ")}`);
      return returns;
    }
    const ends = periodEnds(run.value);
    const own = periodReturns(simulate(run.value).equity, ends, settings.capital);
    if (own === null) refuse("lost its account on the dates that weights are estimated on");
    else if (!(sampleDeviation(own) > 0))
      refuse("does not vary on the dates that weights are estimated on, so it has no volatility to weigh by");
    else ends.forEach((end, k) => returns.set(periodKey(run.value!.clock.dates[end], member.compiled.timeframe), own[k]));
    return returns;
  });
  if (problems.length > 0) return { series: null, problems };
  const dates = [...new Set(byDate.flatMap((returns) => [...returns.keys()]))].sort((a, b) => a - b);
  return { series: byDate.map((returns) => Float64Array.from(dates, (date) => returns.get(date) ?? 0)), problems: [] };
}
