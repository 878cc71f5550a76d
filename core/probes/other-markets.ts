import type { PreparedRun } from "#core/engine";
import { probe, type ProbeInput } from "./kind";
import type { StretchPart } from "./out-of-sample";
import { allReady, EACH_FIELDS, eachFinding, heldCriterion, tooMany, type EachMark } from "./others";
import { ownRun, partOf, readyRun } from "./runs";

interface Input extends ProbeInput, EachMark {
  markets: string[];
}

export const otherMarkets = probe<Input, { runs: PreparedRun[]; names: string[]; mark: EachMark }, StretchPart>({
  kind: "otherMarkets",
  name: "Other markets",
  question: "Does the idea hold where it was not made?",
  caution:
    "It does not say that it must work everywhere: an idea may belong to one kind of market. Markets that move together are one witness, not several.",
  needs: "markets",
  fields: [
    {
      key: "markets",
      label: "Markets",
      kind: "markets",
      initial: [],
      about: "Each is run by itself, with its own costs and the same rules.",
    },
    ...EACH_FIELDS,
  ],
  criteria: [heldCriterion("Markets")],
  unitName: "runs",
  prepare(input, context) {
    if (context.others.length === 0)
      return { value: null, problems: [{ path: "markets", message: "choose at least one market other than the version's own" }] };
    const many = tooMany(input.criteria.held, context.others.length, "markets");
    if (many !== null) return { value: null, problems: [many] };
    const runs = allReady([ownRun(context), ...context.others.map((one) => readyRun(one.name, context.strategy, one.settings, one.bars))]);
    if (runs.value === null) return runs;
    return { value: { runs: runs.value, names: ["the version", ...context.others.map((one) => one.name)], mark: input }, problems: [] };
  },
  units: ({ runs }) => runs.length,
  compute: ({ runs, names }, unit) => partOf(names[unit], runs[unit]),
  conclude: ({ runs, mark }, parts) => eachFinding("Each market by itself, from the same capital", runs, parts, mark),
});
