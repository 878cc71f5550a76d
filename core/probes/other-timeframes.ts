import { formatTimeframe, parseTimeframe } from "#core/bars";
import type { PreparedRun } from "#core/engine";
import { probe, type ProbeInput } from "./kind";
import type { StretchPart } from "./out-of-sample";
import { allReady, EACH_FIELDS, eachFinding, heldCriterion, tooMany, type EachMark } from "./others";
import { ownRun, partOf, readyRun } from "./runs";

interface Input extends ProbeInput, EachMark {
  timeframes: string[];
}

export const otherTimeframes = probe<Input, { runs: PreparedRun[]; names: string[]; mark: EachMark }, StretchPart>({
  kind: "otherTimeframes",
  name: "Other timeframes",
  question: "Does it rest on one length of the bars?",
  caution:
    "It does not say that a strategy has to work on every timeframe: its lengths count bars, so that a coarser timeframe asks for longer moves.",
  needs: "finest",
  fields: [
    {
      key: "timeframes",
      label: "Timeframes",
      kind: "timeframes",
      initial: [],
      about: "Finer and coarser ones; they are made of the finest bars that the market has.",
    },
    ...EACH_FIELDS,
  ],
  criteria: [heldCriterion("Timeframes")],
  unitName: "runs",
  prepare(input, context) {
    const own = context.strategy.timeframe;
    const asked = input.timeframes.map((text) => formatTimeframe(parseTimeframe(text)!)).filter((text) => text !== own);
    if (asked.length === 0)
      return {
        value: null,
        problems: [{ path: "timeframes", message: `choose at least one timeframe other than the version's own ${own}` }],
      };
    const many = tooMany(input.criteria.held, asked.length, "timeframes");
    if (many !== null) return { value: null, problems: [many] };
    // finer bars serve to make other timeframes here; what decides inside a bar stays as the version has it
    const [finest] = context.others;
    const bars =
      finest === undefined
        ? { settings: context.settings, bars: context.bars }
        : { settings: { ...finest.settings, fineTimeframe: context.settings.fineTimeframe }, bars: finest.bars };
    const made = allReady([
      ownRun(context),
      ...asked.map((timeframe) => readyRun(`on ${timeframe} bars`, { ...context.strategy, timeframe }, bars.settings, bars.bars)),
    ]);
    if (made.value === null) return made;
    return {
      value: { runs: made.value, names: [`${own} bars`, ...asked.map((timeframe) => `${timeframe} bars`)], mark: input },
      problems: [],
    };
  },
  units: ({ runs }) => runs.length,
  compute: ({ runs, names }, unit) => partOf(names[unit], runs[unit]),
  conclude: ({ runs, mark }, parts) => eachFinding("The same rules on other bars", runs, parts, mark),
});
