import { parseDate, formatDate } from "#core/bars";
import type { PreparedRun } from "#core/engine";
import { probe, type ProbeInput } from "./kind";
import { bare, joined, STRETCH_CRITERIA, stretchGot, type StretchPart } from "./out-of-sample";
import { barsOf, drawnCurve, partOf, readyRun } from "./runs";

/** The last stretch of the markets, sealed from the start. Whoever runs it opens the seal, which is recorded for good. */
export const holdOut = probe<ProbeInput, PreparedRun[], StretchPart>({
  kind: "holdOut",
  name: "Sealed hold-out",
  question: "Does it work on the stretch that nobody has looked at?",
  caution:
    "It does not say what comes next: it is one stretch, it can be unseen once only, and whatever is changed after it was opened has seen it.",
  needs: "sealed",
  fields: [],
  criteria: STRETCH_CRITERIA,
  unitName: "runs",
  prepare(_input, { strategy, settings, bars, others }) {
    const [sealed] = others;
    if (sealed === undefined)
      return {
        value: null,
        problems: [{ path: "settings.markets", message: "no market of these has a seal; there is no hold-out to open" }],
      };
    // the stretch before the seal ends the day before it
    const before = readyRun("before the seal", strategy, { ...settings, to: formatDate(parseDate(sealed.settings.from!)! - 1) }, bars);
    const after = readyRun("behind the seal", strategy, sealed.settings, sealed.bars);
    const problems = [...before.problems, ...after.problems];
    return problems.length > 0 ? { value: null, problems } : { value: [before.value!, after.value!], problems: [] };
  },
  units: () => 2,
  compute: (runs, unit) => partOf(["before the seal", "behind the seal"][unit], runs[unit]),
  conclude(runs, [before, judged]) {
    const curve = drawnCurve(joined(before.equity, judged.equity, runs[0].account.capital));
    return {
      got: stretchGot(before, judged),
      said: `profit factor ${judged.metrics.profitFactor?.toFixed(2) ?? "none"} on ${judged.metrics.trades} trades behind the seal`,
      parts: [bare(before), bare(judged)],
      drawings: [
        {
          kind: "curves",
          title: "Before and behind the seal",
          dates: curve.dates,
          curves: [{ name: "the version", values: curve.equity, role: "main" }],
          stretches: [before, judged].map(({ name, from, to }, k) => ({ name, from, to, tint: k === 0 })),
        },
      ],
      weight: barsOf(runs[1]),
    };
  },
});
