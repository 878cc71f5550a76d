import { METRIC_INDEX, METRICS } from "#core/metrics";
import {
  bestByLuck,
  bestOf,
  computeSearch,
  fitsOf,
  laySpace,
  prepareRuns,
  reachedByLuck,
  readSearch,
  searchTrials,
  type Search,
  type Space,
} from "#core/optimize";
import { thinned } from "./confidence";
import { probe, type ProbeContext, type ProbeInput } from "./kind";
import { named } from "./runs";

interface Input extends ProbeInput {
  search: unknown;
  repetitions: number;
  days: number;
  seed: number;
}

interface Prepared {
  context: ProbeContext;
  space: Space;
  search: Search;
  input: Input;
}

export const permutedBarsProbe = probe<Input, Prepared, number | null>({
  kind: "permutedBars",
  name: "Permuted bars",
  question: "How often would luck alone have found as much?",
  caution:
    "It does not say how likely the edge is real: it asks how often a search as wide as this one finds as much where nothing is to be found.",
  needs: "nothing",
  fields: [
    {
      key: "search",
      label: "What was searched",
      kind: "search",
      initial: null,
      about: "The whole search is repeated on bars that were put in another order.",
    },
    { key: "repetitions", label: "Repetitions", kind: "whole", initial: 50, least: 5, most: 1000 },
    { key: "days", label: "Days of a block", kind: "whole", initial: 1, least: 1, most: 1000 },
    { key: "seed", label: "Seed", kind: "whole", initial: 1 },
  ],
  criteria: [{ key: "luck", label: "Luck finds as much", unit: "percent", want: "most", initial: 5, from: 0, to: 100 }],
  unitName: "searches",
  prepare(input, context) {
    const search = readSearch(input.search);
    if (search.value === null) return { value: null, problems: search.problems.map((p) => ({ ...p, path: `search.${p.path}` })) };
    const least = 100 / (input.repetitions + 1);
    if ((input.criteria.luck ?? 100) < least)
      return {
        value: null,
        problems: [
          {
            path: "repetitions",
            message: `with ${input.repetitions} repetitions luck can't be shown to be rarer than ${least.toFixed(1)} %; repeat more often`,
          },
        ],
      };
    const space = laySpace(context.strategy, search.value);
    if (space.value === null) return { value: null, problems: named("the search", space.problems) };
    return { value: { context, space: space.value, search: search.value, input }, problems: [] };
  },
  // the real search is the first unit
  units: ({ input }) => input.repetitions + 1,
  compute({ context, space, search, input }, unit) {
    const { settings, bars } = context;
    if (unit > 0) return bestByLuck(space, { settings, search }, bars, input, unit - 1);
    const runs = prepareRuns(space.compiled, { settings, search }, bars);
    const { trials } = searchTrials(space, search, (combinations, first) =>
      computeSearch({ grid: space, runs }, search, combinations, first),
    );
    const best = bestOf(
      fitsOf(
        trials.map((trial) => trial.metrics),
        search.objective,
        search.limits,
      ),
    );
    return best === null ? null : trials[best].metrics[METRIC_INDEX[search.objective[0].metric]];
  },
  conclude({ search, context }, [real, ...lucky]) {
    const [{ metric, want }] = search.objective;
    const name = METRICS[metric].label.toLowerCase();
    const reached = real === null ? null : reachedByLuck(lucky, real, want);
    const { unit } = METRICS[metric];
    return {
      got: { luck: reached === null ? null : 100 * reached.share },
      said:
        reached === null
          ? "no trial of the search is inside its limits"
          : `luck reached the best ${name} of ${real!.toFixed(2)} in ${reached.count} of ${lucky.length} searches`,
      drawings: [
        {
          kind: "spread",
          title: `Best ${name} that the search finds on permuted bars`,
          metric,
          unit: unit === "money" || unit === "percent" || unit === "count" ? unit : "ratio",
          values: thinned(lucky.flatMap((x) => (x === null ? [] : [x]))),
          marks: real === null ? [] : [{ name: "on the real bars", value: real }],
        },
      ],
      weight: context.bars.reduce((sum, bars) => sum + bars.length, 0),
    };
  },
});
