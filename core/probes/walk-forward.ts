import { parseDate } from "#core/bars";
import { readSearch } from "#core/optimize";
import { Walker, type Chosen, type Part, type WalkForward } from "#core/walk-forward";
import { probe, type ProbeContext, type ProbeField, type ProbeInput, type Ready } from "./kind";
import { drawnCurve } from "./runs";

interface Input extends ProbeInput {
  search: unknown;
  windows: number;
  outShare: number;
  anchored: boolean;
  choose: "best" | "recommended";
}

/** What a fit chose, as a unit hands it over. */
export type StoredChoice = { values: Record<string, number>; metrics: (number | null)[] } | null;

export const storedChoice = (chosen: Chosen | null): StoredChoice =>
  chosen === null ? null : { values: chosen.values, metrics: Array.from(chosen.metrics, (x) => (Number.isNaN(x) ? null : x)) };

export const readChoice = (choice: StoredChoice): Chosen | null =>
  choice === null ? null : { values: choice.values, metrics: Float64Array.from(choice.metrics, (x) => x ?? NaN) };

export const WALK_FIELDS: readonly ProbeField[] = [
  { key: "search", label: "What is fitted again and again", kind: "search", initial: null },
  { key: "anchored", label: "Each fit begins with the first date", kind: "truth", initial: false },
  {
    key: "choose",
    label: "A fit takes",
    kind: "choice",
    initial: "best",
    choices: [
      { value: "best", label: "its best trial" },
      { value: "recommended", label: "its plateau's deepest trial" },
    ],
  },
];

/** A walker over a probe's window, and the search that it repeats. */
export function readyWalker(
  input: ProbeInput & Pick<Input, "search" | "anchored" | "choose">,
  windows: number[],
  outShare: number[],
  criteria: WalkForward["criteria"],
  { strategy, settings, bars }: ProbeContext,
): Ready<{ walker: Walker; plan: WalkForward }> {
  const search = readSearch(input.search);
  if (search.value === null) return { value: null, problems: search.problems.map((p) => ({ ...p, path: `search.${p.path}` })) };
  const { anchored, choose } = input;
  const plan: WalkForward = {
    format: "canyon.walk-forward/1",
    strategy,
    settings,
    search: search.value,
    from: settings.from ?? undefined,
    to: settings.to ?? undefined,
    windows,
    outShare,
    map: true,
    anchored,
    choose,
    criteria,
  };
  const made = Walker.prepare(strategy, settings, plan, bars);
  if (made.value === null) return { value: null, problems: made.problems };
  const walker = made.value;
  const needed = walker.longestWarmup;
  for (const count of windows)
    for (const share of outShare) {
      const bars = walker.barsOfFirstFit(count, share);
      if (bars <= needed)
        return {
          value: null,
          problems: [
            {
              path: "windows",
              message: `with ${count} windows the first fit has ${bars} bars to look at, and the rules say nothing before ${needed}; use fewer windows, or shorter lengths`,
            },
          ],
        };
    }
  if (walker.tradesAsItStands === 0)
    return {
      value: null,
      problems: [{ path: "windows", message: "the version closes no trade in this window; there is nothing to walk forward with" }],
    };
  return { value: { walker, plan }, problems: [] };
}

const percent = (x: number | null) => (x === null ? null : 100 * x);
const written = (x: number | null) => (x === null ? "none" : `${(100 * x).toFixed(0)} %`);

export const walkForward = probe<Input, { walker: Walker; parts: Part[]; next: Part; input: Input }, StoredChoice>({
  kind: "walkForward",
  name: "Walk-forward",
  question: "Does refitting along the way carry over to what comes next?",
  caution:
    "It does not say that these very values hold: it judges the way in which values are found. One division of the dates is one draw; the map asks whether its neighbours hold as well.",
  needs: "nothing",
  fields: [
    ...WALK_FIELDS,
    { key: "windows", label: "Windows", kind: "whole", initial: 10, least: 1, most: 200 },
    { key: "outShare", label: "Out-of-sample share of a window", kind: "number", initial: 20, least: 1, most: 99, unit: "%" },
  ],
  criteria: [
    { key: "efficiency", label: "Efficiency, growth out ÷ in", unit: "percent", want: "least", initial: 40, from: -1000, to: 1000 },
    { key: "profitable", label: "Windows in profit", unit: "percent", want: "least", initial: 55, from: 0, to: 100 },
    { key: "largestShare", label: "Largest window’s share of the profit", unit: "percent", want: "most", initial: 60, from: 0, to: 100 },
    { key: "net", label: "Net of the stitched curve", unit: "percent", want: "least", initial: 0, from: -100, to: 1e9 },
  ],
  unitName: "fits",
  prepare(input, context) {
    const made = readyWalker(input, [input.windows], [input.outShare], [], context);
    if (made.value === null) return made;
    const { walker } = made.value;
    return {
      value: {
        walker,
        parts: walker.fitParts([input.windows], [input.outShare]),
        next: walker.nextPart(input.windows, input.outShare),
        input,
      },
      problems: [],
    };
  },
  units: ({ parts }) => parts.length + 1,
  compute: ({ walker, parts, next }, unit) => storedChoice(walker.fit(unit < parts.length ? parts[unit] : next)),
  conclude({ walker, parts, input }, choices) {
    parts.forEach((part, k) => walker.know(part, readChoice(choices[k])));
    const next = readChoice(choices[parts.length]);
    const walk = walker.walk(input.windows, input.outShare);
    const { efficiency, profitable, largestShare, stitched } = walk;
    const days = stitched.date.map((date) => parseDate(date)!);
    const capital = walker.capital;
    const end = stitched.equity[stitched.equity.length - 1];
    const unsteady = Object.entries(walk.steadiness).sort((a, b) => a[1] - b[1])[0];
    return {
      got: {
        efficiency: percent(efficiency),
        profitable: 100 * profitable,
        largestShare: percent(largestShare),
        net: 100 * (end / capital - 1),
      },
      said: `efficiency ${written(efficiency)}, ${written(profitable)} of ${input.windows} windows in profit, ${written(largestShare)} of it in the largest${unsteady ? `; ${unsteady[0]} is the least steady` : ""}; next fit on ${walk.nextRefit}`,
      parts: [],
      drawings: [
        {
          kind: "walk",
          windows: walk.windows.map(({ fit, judge, values, in: inside, out }) => ({
            fit,
            judge,
            values,
            in: inside?.netProfit ?? null,
            out: out.netProfit!,
          })),
          names: Object.keys(walk.steadiness),
          stitched: drawnCurve({ dates: days, equity: stitched.equity }),
          fixed: drawnCurve(walker.fixed(input.windows, input.outShare)),
          nextRefit: walk.nextRefit,
          next: next === null ? null : walker.written(next),
          steadiness: walk.steadiness,
        },
      ],
      weight: days.length,
    };
  },
});
