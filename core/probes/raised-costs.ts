import type { Costs, Settings } from "#core/documents";
import type { PreparedRun } from "#core/engine";
import { METRIC_INDEX } from "#core/metrics";
import { timesCosts } from "#core/settings";
import { probe, type ProbeInput } from "./kind";
import { barsOf, figuresOf, ownRun } from "./runs";

interface Input extends ProbeInput {
  most: number;
  step: number;
  at: number;
}

interface Unit {
  times: number;
  net: number;
  factor: number | null;
  trades: number;
}

const free = ({ perUnit, perOrder, percent, minimum, spreadTicks, slippageTicks }: Costs): boolean =>
  [perUnit, perOrder, percent, minimum, spreadTicks, slippageTicks].every((x) => x === 0);

/** Where a line through the steps comes to 0 for the first time; null where it stays above. */
function crossing(steps: readonly Unit[]): number | null {
  if (!(steps[0].net > 0)) return 0;
  for (let k = 1; k < steps.length; k++) {
    const [a, b] = [steps[k - 1], steps[k]];
    if (b.net <= 0) return a.times + ((b.times - a.times) * a.net) / (a.net - b.net);
  }
  return null;
}

export const raisedCosts = probe<Input, { run: PreparedRun; steps: number[]; at: number; settings: Settings }, Unit>({
  kind: "raisedCosts",
  name: "Costs raised",
  question: "How much worse may costs get before nothing is left?",
  caution:
    "It does not say that your costs are right to begin with: what it raises is what the run settings say, and an order that is too large moves the price as well.",
  needs: "nothing",
  fields: [
    { key: "most", label: "Up to so many times the costs", kind: "number", initial: 6, least: 1, most: 100 },
    { key: "step", label: "in steps of", kind: "number", initial: 0.5, least: 0.05, most: 10 },
    { key: "at", label: "Profit factor taken at so many times the costs", kind: "number", initial: 3, least: 0, most: 100 },
  ],
  criteria: [
    { key: "edge", label: "Edge gone at, times the costs", unit: "times", want: "least", initial: 2, from: 0, to: 100 },
    { key: "profitFactor", label: "Profit factor at the raised costs", unit: "ratio", want: "least", initial: null, from: 0, to: 1000 },
  ],
  unitName: "runs",
  prepare(input, context) {
    const { costs } = context.settings;
    if (free(costs))
      return {
        value: null,
        problems: [{ path: "settings.costs", message: "the run settings have no costs that could be raised; set them first" }],
      };
    if ((input.criteria.edge ?? 0) > input.most)
      return {
        value: null,
        problems: [
          { path: "most", message: `the costs are raised to ${input.most} times only; the edge is asked for up to ${input.criteria.edge}` },
        ],
      };
    const run = ownRun(context);
    if (run.value === null) return run;
    const rungs = Array.from({ length: Math.floor(input.most / input.step + 1e-9) + 1 }, (_, k) => k * input.step);
    const steps = [...new Set([...rungs, input.at])].sort((a, b) => a - b);
    return { value: { run: run.value, steps, at: input.at, settings: context.settings }, problems: [] };
  },
  units: ({ steps }) => steps.length,
  compute({ run, steps, settings }, unit) {
    const account = { ...run.account, costs: timesCosts(settings.costs, steps[unit]) };
    const figures = figuresOf({ ...run, account, settings: { ...settings, costs: account.costs } }, null);
    const factor = figures[METRIC_INDEX.profitFactor];
    return {
      times: steps[unit],
      net: figures[METRIC_INDEX.netProfit],
      factor: Number.isNaN(factor) ? null : factor,
      trades: figures[METRIC_INDEX.trades],
    };
  },
  conclude({ run, at }, steps) {
    const edge = crossing(steps);
    const most = steps[steps.length - 1].times;
    const taken = steps.find((step) => step.times === at)!;
    return {
      got: {
        edge: edge ?? { held: true, note: `beyond ${most} ×` },
        profitFactor: taken.factor === null && taken.net > 0 ? { held: true, note: "no losers" } : taken.factor,
      },
      said: `${edge === null ? `still a profit at ${most} times the costs` : `the edge is gone at ${edge.toFixed(1)} times the costs`}; profit factor ${taken.factor?.toFixed(2) ?? "none"} at ${at} times`,
      drawings: [
        {
          kind: "ladder",
          title: "Net profit as costs rise",
          across: "times the costs",
          up: "net profit",
          x: steps.map((step) => step.times),
          y: steps.map((step) => step.net),
          marks: [{ name: "as set", at: 1 }, ...(edge === null ? [] : [{ name: "edge gone", at: edge }])],
        },
      ],
      weight: barsOf(run),
    };
  },
});
